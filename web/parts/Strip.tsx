import { memo, useMemo } from 'react';
import { meansOf } from '../../core/measure/covariance.ts';
import { toLufs } from '../../core/measure/loudness.ts';

/** As many points are drawn at most. */
const POINTS = 600;
const LOWEST = -55;
const HIGHEST = -12;

/** What a source does over time: how high its water stands, momentary loudness from −55 to −12 LUFS. */
export const Strip = memo(function Strip({ powers, label }: { powers: Float64Array; label: string }) {
  const outline = useMemo(() => {
    const step = Math.max(1, Math.ceil(powers.length / POINTS));
    const levels = meansOf(powers, step);
    const points: string[] = [];
    for (let block = 0; block < levels.length; block += step) {
      const share = (toLufs(levels[block]) - LOWEST) / (HIGHEST - LOWEST);
      const height = Number.isFinite(share) ? Math.max(0, Math.min(1, share)) : 0;
      points.push(`${((100 * block) / powers.length).toFixed(2)},${(10 - 10 * height).toFixed(2)}`);
    }
    return `M0,10 L${points.join(' ')} L100,10 Z`;
  }, [powers]);
  return (
    <svg
      role="img"
      aria-label={label}
      viewBox="0 0 100 10"
      preserveAspectRatio="none"
      className="block h-full w-full"
    >
      <path d={outline} className="fill-water-pale" />
    </svg>
  );
});
