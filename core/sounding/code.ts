import { SAMPLE_RATE } from '../audio/planes.ts';
import { seededRandom } from '../audio/random.ts';

const { cos, exp, imul, log, min, PI, sin } = Math;

/** A code has twelve sweeps of a quarter second, and repeats after them (frames). */
export const SWEEPS = 12;
export const SWEEP_FRAMES = SAMPLE_RATE / 4;
export const PERIOD_FRAMES = SWEEPS * SWEEP_FRAMES;
/** A code sounds so many times when it is played once: 30 s. */
export const REPETITIONS = 10;
/** The band of the sweeps (Hz): what lossy coders keep, and most paths let through. */
export const LOW_HZ = 150;
export const HIGH_HZ = 10_000;
/** Each sweep covers this much of the band at least (as a factor). */
const LEAST_RANGE = 3;
/** Sixteen codes together stay below full scale (−24 dBFS each). */
export const AMPLITUDE = 1 / 16;
const FADE_FRAMES = SAMPLE_RATE / 100;

/** Which sides of a source's path carry a code of their own: both, or (a microphone) one for both. */
export type CodeSides = 'stereo' | 'mono';

/**
 * Makes one period of the code with a name: exponential sweeps (Farina, AES 108, 2000) of ranges and directions that the name
 * draws by lot. It correlates with itself in one point, and with the codes of other names nearly nowhere.
 */
export function codeOf(name: string): Float32Array {
  const random = seededRandom(hashOf(name));
  const code = new Float32Array(PERIOD_FRAMES);
  const spanned = log(HIGH_HZ / LOW_HZ);
  for (let sweep = 0; sweep < SWEEPS; sweep++) {
    const range = log(LEAST_RANGE) + random() * (spanned - log(LEAST_RANGE));
    const low = LOW_HZ * exp(random() * (spanned - range));
    const [from, to] = random() < 0.5 ? [low, low * exp(range)] : [low * exp(range), low];
    const rate = log(to / from) / SWEEP_FRAMES;
    const turns = (2 * PI * from) / SAMPLE_RATE / rate;
    const growth = exp(rate);
    let risen = 1;
    for (let i = 0; i < SWEEP_FRAMES; i++) {
      code[sweep * SWEEP_FRAMES + i] = AMPLITUDE * fade(i) * sin(turns * (risen - 1));
      risen *= growth;
    }
  }
  return code;
}

/** The names of the codes of a source: one a side, or one for both. */
export function codeNames(source: string, sides: CodeSides): string[] {
  return sides === 'mono' ? [`${source}/mono`] : [`${source}/left`, `${source}/right`];
}

/** A whole coded sound of a source, one plane a side: {@link REPETITIONS} periods. */
export function codedSound(source: string, sides: CodeSides): Float32Array[] {
  return codeNames(source, sides).map((name) => {
    const period = codeOf(name);
    const sound = new Float32Array(REPETITIONS * PERIOD_FRAMES);
    for (let at = 0; at < sound.length; at += PERIOD_FRAMES) sound.set(period, at);
    return sound;
  });
}

function fade(frame: number): number {
  const edge = min(frame, SWEEP_FRAMES - 1 - frame);
  return edge >= FADE_FRAMES ? 1 : 0.5 - 0.5 * cos((PI * (edge + 0.5)) / FADE_FRAMES);
}

/** A number of 32 bits for a name (FNV-1a). */
function hashOf(name: string): number {
  let hash = 0x811c9dc5;
  for (let i = 0; i < name.length; i++) hash = imul(hash ^ name.charCodeAt(i), 0x01000193);
  return hash >>> 0;
}
