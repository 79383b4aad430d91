/** How the axes, rulings and notes of every chart look. */
export const axisStyle = { tick: { fontSize: 11, fill: 'var(--soft)' }, stroke: 'var(--rule)' } as const;
export const gridStyle = { stroke: 'var(--rule)', strokeDasharray: '1 4' } as const;
export const noteStyle = {
  isAnimationActive: false,
  contentStyle: { background: 'var(--sheet)', border: '1px solid var(--rule)', fontSize: 12 },
} as const;

/** The times (s) that a time line of a length is marked with. */
export function clockTicks(endS: number): number[] {
  const step = endS > 600 ? 60 : endS > 180 ? 30 : 15;
  return Array.from({ length: Math.floor(endS / step) + 1 }, (_, i) => i * step);
}
