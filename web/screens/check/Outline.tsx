import { clsx } from 'clsx';
import { useMemo } from 'react';

/** The waveform of a sound, as wide as there is room. */
export function Outline({
  outline,
  label,
  className,
}: {
  outline: number[];
  label: string;
  className?: string;
}) {
  const path = useMemo(() => pathOf(outline), [outline]);
  return (
    <svg
      role="img"
      aria-label={label}
      viewBox={`0 -1 ${Math.max(1, outline.length)} 2`}
      preserveAspectRatio="none"
      className={clsx('block w-full border border-rule bg-sheet', className)}
    >
      <path d={path} fill="var(--water)" opacity="0.65" />
    </svg>
  );
}

/** Quiet sounds are drawn larger than they are (by the square root), or a quiet track would be a line. */
function pathOf(outline: number[]): string {
  const heights = outline.map((value) => Math.min(1, Math.sqrt(value)).toFixed(3));
  const upper = heights.map((height, at) => `L${at} -${height}L${at + 1} -${height}`).join('');
  const lower = heights
    .map((height, at) => `L${at + 1} ${height}L${at} ${height}`)
    .reverse()
    .join('');
  return `M0 0${upper}${lower}Z`;
}
