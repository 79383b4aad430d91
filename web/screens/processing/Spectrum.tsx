import { useCallback, useRef } from 'react';
import { SAMPLE_RATE } from '../../../core/audio/planes.ts';
import { SPECTRUM_SIZE, type Transport } from '../../audio/transport.ts';
import { useEveryFrame } from '../../parts/useEveryFrame.ts';
import { hzAt, PLOT } from './plot.ts';

const POINTS = 160;
/** The bottom and the top of the plot mean these levels (dBFS, a bin). */
const LOWEST_DB = -110;
const HIGHEST_DB = -20;

/** The spectrum of the source that is looked at, as it plays, behind the curve of its filters. */
export function Spectrum({ transport }: { transport: Transport }) {
  const levels = useRef(new Float32Array(SPECTRUM_SIZE / 2));
  const shape = useRef<SVGPolygonElement>(null);
  const draw = useCallback(() => {
    const isThere = transport.spectrum(levels.current);
    const points = isThere
      ? Array.from(
          { length: POINTS },
          (_, i) => `${i},${(100 * (1 - shareAt(levels.current, i))).toFixed(1)}`,
        )
      : [];
    shape.current?.setAttribute('points', isThere ? `0,100 ${points.join(' ')} ${POINTS - 1},100` : '');
  }, [transport]);
  useEveryFrame(draw);
  return (
    <svg
      className="pointer-events-none absolute"
      style={{
        left: PLOT.left,
        top: PLOT.top,
        width: `calc(100% - ${PLOT.left + PLOT.right}px)`,
        height: `calc(100% - ${PLOT.top + PLOT.bottom}px)`,
      }}
      viewBox={`0 0 ${POINTS - 1} 100`}
      preserveAspectRatio="none"
      aria-hidden="true"
      data-testid="spectrum"
    >
      <polygon ref={shape} fill="var(--reed)" opacity={0.3} />
    </svg>
  );
}

/** The loudest bin between a point and the next, as a share of the plot's height. */
function shareAt(levels: Float32Array, point: number): number {
  const bin = (i: number) => Math.floor((hzAt(i / (POINTS - 1)) * SPECTRUM_SIZE) / SAMPLE_RATE);
  let level = Number.NEGATIVE_INFINITY;
  for (let i = bin(point); i <= Math.min(levels.length - 1, Math.max(bin(point), bin(point + 1) - 1)); i++)
    level = Math.max(level, levels[i]);
  return Math.max(0, Math.min(1, (level - LOWEST_DB) / (HIGHEST_DB - LOWEST_DB)));
}
