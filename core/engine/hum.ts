import type { Stereo } from '../audio/planes.ts';

/** The hum of an analogue line that is not isolated: 50 Hz and its harmonics, about this loud (dBFS RMS). */
export const HUM_DB = -50;
const HARMONICS = [1, 0.7, 0.45, 0.2, 0.3, 0.1, 0.15];
/** The waveform repeats after one period of 50 Hz. */
const PERIOD = 48_000 / 50;
const TABLE = humTable();

/** Adds the hum to a stretch of a plane; `frame` is the time of its first frame since the beginning of the sound. */
export function addHum(plane: Stereo, start: number, end: number, frame: number): void {
  let at = frame % PERIOD;
  for (let i = start; i < end; i++) {
    plane[0][i] += TABLE[at];
    plane[1][i] += TABLE[at];
    if (++at === PERIOD) at = 0;
  }
}

function humTable(): Float32Array {
  const power = HARMONICS.reduce((sum, amplitude) => sum + (amplitude * amplitude) / 2, 0);
  const scale = 10 ** (HUM_DB / 20) / Math.sqrt(power);
  return Float32Array.from({ length: PERIOD }, (_, i) =>
    HARMONICS.reduce(
      (sum, amplitude, k) => sum + scale * amplitude * Math.sin((2 * Math.PI * (k + 1) * i) / PERIOD),
      0,
    ),
  );
}
