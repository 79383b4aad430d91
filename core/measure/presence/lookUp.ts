import { Kernels } from '../../kernels/kernels.ts';
import type { MakeFft, RealFft } from '../fft.ts';
import { robustSpread } from './correlate.ts';
import { BANDS, type Fingerprint, PRINT_RATE } from './fingerprint.ts';

const { ceil, max, min, round } = Math;

/** A place where a sound may be in a track. */
export interface Place {
  /** When the sound would begin in the track (s); before its start where it is negative. */
  beginsS: number;
  /** The passage of the sound that suggests it begins here (s of the sound). */
  passageS: number;
  /** How far it stands out, in spreads of what other places come to. */
  height: number;
}

/** A sound is looked for in passages of so long (s). */
export const PASSAGE_S = 20;
const PASSAGE = round(PASSAGE_S * PRINT_RATE);
/** Transforms along the time, and how much of a track each adds. */
const SIZE = 8192;
const STEP = SIZE - PASSAGE;
/** A track is looked at so much at a time: its transforms take memory (about an hour). */
const MOST_BLOCKS = 11;
/** From this height on a place is worth a closer look; of each passage and of the whole sound, so many. */
const LEAST_HEIGHT = 4;
const MOST_PLACES = 12;
/** Places nearer than this are one (s). */
const NEAR_S = 0.5;

/**
 * Looks up where sounds may be in a track, by their fingerprints: each passage of a sound is correlated with the whole track, and so are all
 * passages together, since a record plays on at its own pace. What is found is worth a closer look, no more.
 * @returns the places of each sound, the highest first
 */
export function lookUp(
  makeFft: MakeFft,
  track: Fingerprint,
  sounds: Fingerprint[],
  onProgress: (share: number) => void = () => {},
): Place[][] {
  const fft = makeFft(SIZE);
  try {
    const found: Place[][] = sounds.map(() => []);
    const step = MOST_BLOCKS * STEP;
    const whole = track.frames + PASSAGE / 2;
    const chunks = max(1, ceil(whole / step));
    const blocks = min(MOST_BLOCKS, ceil(whole / STEP));
    const kernels = new Kernels((blocks + 1) * BANDS * (SIZE + 4) + SIZE + 4);
    for (let chunk = 0; chunk < chunks; chunk++) {
      // The first passage may have begun before the track does.
      kernels.clear();
      const stretch = new Stretch(fft, kernels, track, chunk * step - round(PASSAGE / 2));
      for (const [at, sound] of sounds.entries()) {
        if (sound.soundingS > 0) found[at].push(...stretch.placesOf(sound));
        onProgress((chunk + (at + 1) / sounds.length) / chunks);
      }
    }
    return found.map(distinct);
  } finally {
    fft.close();
  }
}

/** A stretch of a track, as spectra of each band along the time. */
class Stretch {
  private readonly fft: RealFft;
  private readonly kernels: Kernels;
  private readonly start: number;
  private readonly spectra: Float32Array[][];
  private readonly passage: Float32Array[];
  private readonly sum: Float32Array;
  private readonly work = new Float32Array(SIZE);
  private readonly lags: number;

  constructor(fft: RealFft, kernels: Kernels, track: Fingerprint, start: number) {
    this.fft = fft;
    this.kernels = kernels;
    this.start = start;
    this.lags = min(track.frames - start, MOST_BLOCKS * STEP);
    const blocks = ceil(this.lags / STEP);
    const spectra = () => Array.from({ length: BANDS }, () => kernels.floats(SIZE));
    this.sum = kernels.floats(SIZE);
    this.passage = spectra();
    this.spectra = Array.from({ length: blocks }, spectra);
    this.spectra.forEach((bands, block) => {
      this.transform(track, start + block * STEP, SIZE, bands);
    });
  }

  /** Where a sound may be in this stretch. */
  placesOf(sound: Fingerprint): Place[] {
    const places: Place[] = [];
    const passages = max(1, ceil((sound.frames - PASSAGE / 2) / PASSAGE));
    /** All passages together, by where the sound begins; the first value is a sound that ends as the stretch begins. */
    const before = (passages - 1) * PASSAGE;
    const together = new Float32Array(before + this.lags);
    /** The passage that stands out most there, and by how much: a long sound has many passages, and so one of them is kept. */
    const best = new Uint16Array(together.length);
    const highest = new Float32Array(together.length);
    for (let at = 0; at < passages; at++) {
      const heights = this.heightsOf(sound, at * PASSAGE);
      places.push(...peaksOf(heights).map(({ lag, height }) => this.place(lag - at * PASSAGE, at, height)));
      const from = before - at * PASSAGE;
      for (let lag = 0; lag < this.lags; lag++) {
        together[from + lag] += heights[lag];
        if (heights[lag] <= highest[from + lag]) continue;
        highest[from + lag] = heights[lag];
        best[from + lag] = at;
      }
    }
    if (passages < 2) return places;
    scale(together);
    const whole = peaksOf(together).map(({ lag, height }) => this.place(lag - before, best[lag], height));
    return [...places, ...whole];
  }

  private place(begins: number, passage: number, height: number): Place {
    return {
      beginsS: (this.start + begins) / PRINT_RATE,
      passageS: (passage * PASSAGE) / PRINT_RATE,
      height,
    };
  }

  /** How well a passage of a sound agrees with the stretch, at each lag, in spreads. */
  private heightsOf(sound: Fingerprint, from: number): Float32Array {
    const { fft, kernels, passage, sum, work } = this;
    this.transform(sound, from, PASSAGE, passage);
    const heights = new Float32Array(this.lags);
    this.spectra.forEach((bands, block) => {
      sum.fill(0);
      for (let band = 0; band < BANDS; band++)
        kernels.loops.addCrossSpectrum(
          passage[band].byteOffset,
          bands[band].byteOffset,
          sum.byteOffset,
          SIZE,
        );
      // What lies at the ends of the spectrum is packed together, and holds no change from moment to moment.
      sum.fill(0, 0, 2);
      fft.inverse(sum, work);
      heights.set(work.subarray(0, min(STEP, this.lags - block * STEP)), block * STEP);
    });
    return scale(heights);
  }

  /** Transforms a passage along the time, band by band, with silence around it. */
  private transform(
    { values, frames }: Fingerprint,
    from: number,
    count: number,
    into: Float32Array[],
  ): void {
    const { fft, work } = this;
    const first = max(0, -from);
    const end = min(count, frames - from);
    for (let band = 0; band < BANDS; band++) {
      work.fill(0);
      for (let i = first; i < end; i++) work[i] = values[(from + i) * BANDS + band];
      fft.forward(work, into[band]);
    }
  }
}

/** Divides values by their spread. */
function scale(values: Float32Array): Float32Array {
  const spread = robustSpread(values);
  for (let i = 0; i < values.length; i++) values[i] = spread > 0 ? values[i] / spread : 0;
  return values;
}

/** The highest peaks that stand out, apart from one another. */
function peaksOf(heights: Float32Array): { lag: number; height: number }[] {
  const peaks: { lag: number; height: number }[] = [];
  for (let lag = 0; lag < heights.length; lag++) {
    const height = heights[lag];
    if (height < LEAST_HEIGHT || height < (heights[lag - 1] ?? 0) || height < (heights[lag + 1] ?? 0))
      continue;
    peaks.push({ lag, height });
  }
  peaks.sort((a, b) => b.height - a.height);
  const kept: typeof peaks = [];
  for (const peak of peaks) {
    if (kept.length === MOST_PLACES) break;
    if (kept.every(({ lag }) => Math.abs(lag - peak.lag) > NEAR_S * PRINT_RATE)) kept.push(peak);
  }
  return kept;
}

/** Of places that are one, the highest; the highest of all first. */
function distinct(places: Place[]): Place[] {
  const kept: Place[] = [];
  for (const place of [...places].sort((a, b) => b.height - a.height))
    if (kept.every(({ beginsS }) => Math.abs(beginsS - place.beginsS) > NEAR_S)) kept.push(place);
  return kept;
}
