/** Where the curve of the filters is drawn: the plot in its frame (px), and what its edges mean. */
export const PLOT = {
  left: 34,
  right: 8,
  top: 6,
  bottom: 22,
  lowHz: 20,
  highHz: 20_000,
  lowDb: -30,
  highDb: 24,
};

/** Where a frequency stands between the edges of the plot, 0 to 1. */
export function shareOfHz(hz: number): number {
  return Math.log(hz / PLOT.lowHz) / Math.log(PLOT.highHz / PLOT.lowHz);
}

/** The frequency at a share of the plot's width, to three digits. */
export function hzAt(share: number): number {
  const hz = PLOT.lowHz * (PLOT.highHz / PLOT.lowHz) ** Math.max(0, Math.min(1, share));
  return Number(hz.toPrecision(3));
}

/** Where a gain stands from the top of the plot, 0 to 1. */
export function shareOfDb(gainDb: number): number {
  return (PLOT.highDb - gainDb) / (PLOT.highDb - PLOT.lowDb);
}

/** The gain at a share of the plot's height from its top, to half a decibel, within what a band may do. */
export function dbAt(share: number): number {
  const gainDb = PLOT.highDb - share * (PLOT.highDb - PLOT.lowDb);
  return Math.max(-24, Math.min(24, Math.round(gainDb * 2) / 2));
}
