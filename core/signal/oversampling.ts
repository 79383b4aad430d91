const { abs, max } = Math;

/**
 * The 48 taps of the interpolating filter, as four phases of twelve.
 * Source: ITU-R BS.1770-5 Annex 2, "Example of a set of filter coefficients".
 */
export const PHASES = [
  [
    0.001708984375, 0.010986328125, -0.0196533203125, 0.033203125, -0.0594482421875, 0.1373291015625,
    0.97216796875, -0.102294921875, 0.047607421875, -0.026611328125, 0.014892578125, -0.00830078125,
  ],
  [
    -0.0291748046875, 0.029296875, -0.0517578125, 0.089111328125, -0.16650390625, 0.465087890625,
    0.77978515625, -0.2003173828125, 0.1015625, -0.0582275390625, 0.0330810546875, -0.0189208984375,
  ],
  [
    -0.0189208984375, 0.0330810546875, -0.0582275390625, 0.1015625, -0.2003173828125, 0.77978515625,
    0.465087890625, -0.16650390625, 0.089111328125, -0.0517578125, 0.029296875, -0.0291748046875,
  ],
  [
    -0.00830078125, 0.014892578125, -0.026611328125, 0.047607421875, -0.102294921875, 0.97216796875,
    0.1373291015625, -0.0594482421875, 0.033203125, -0.0196533203125, 0.010986328125, 0.001708984375,
  ],
];
/** How many samples each phase looks at; the point that it gives lies between the sixth and the seventh newest. */
export const TAPS = 12;
/** No phase can exceed the largest of its twelve inputs by more than this (the largest sum of magnitudes). */
export const HEADROOM = max(...PHASES.map((phase) => phase.reduce((sum, tap) => sum + abs(tap), 0)));
