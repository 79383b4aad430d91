/** How wide the bands of AAC are (spectral lines), from the lowest on, in one long window and in one of eight short ones. */
export interface Bands {
  long: number[];
  short: number[];
}

/** Rates (Hz) from which on a table holds (ISO/IEC 14496-3, table 4.82), and its bands (tables 4.129 to 4.147): a width, and how often it comes. */
const TABLES: [fromHz: number, long: string, short: string][] = [
  [75_132, '4×14 8×5 12×5 16×2 24 28 36 44 64×11', '4×6 8×3 16 28 36'],
  [55_426, '4×14 8×4 12×3 16×3 20 24×2 28 36 40×18', '4×6 8×3 16 28 36'],
  [37_566, '4×10 8×7 12×4 16×2 20×2 24×2 28×2 32×19 96', '4×5 8×3 12×3 16×3'],
  [27_713, '4×10 8×7 12×4 16×2 20×2 24×2 28×2 32×22', '4×5 8×3 12×3 16×3'],
  [18_783, '4×11 8×10 12×4 16×3 20×2 24×2 28×2 32 36×2 40 44 48 52×2 64×5', '4×7 8×3 12×2 16×2 20'],
  [9_391, '8×11 12×9 16×4 20×3 24×2 28×2 32 36 40×2 44 48 52 56 60 64×3', '4×8 8×2 12×2 16 20×2'],
  [0, '12×13 16×7 20×4 24×3 28×2 32 36×2 40 44 48 52 56 60 64 80', '4×7 8×4 12 16 20×2'],
];

const BANDS = TABLES.map(([fromHz, long, short]) => ({
  fromHz,
  bands: { long: widths(long), short: widths(short) },
}));

/** The bands at a sampling rate (Hz): the same object for all rates that share them. */
export function bandsAt(rateHz: number): Bands {
  const found = BANDS.find(({ fromHz }) => rateHz >= fromHz) ?? BANDS[BANDS.length - 1];
  return found.bands;
}

function widths(table: string): number[] {
  return table.split(' ').flatMap((one) => {
    const [width, times = 1] = one.split('×').map(Number);
    return Array<number>(times).fill(width);
  });
}
