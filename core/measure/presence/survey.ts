import { Kernels } from '../../kernels/kernels.ts';
import { CANCELLED_SHARE } from '../../signal/mono.ts';
import type { RealFft } from '../fft.ts';
import { Correlator, highestPeak, LAGS, peakOf, REFERENCE_SHARE, TRACK_SHARE } from './correlate.ts';
import {
  activeStretches,
  clearStretches,
  gainBlock,
  spreadEvidence,
  stretchEvidence,
  stretchPowers,
} from './evidence.ts';
import type { LagTrend } from './intervals.ts';
import { LevelEstimator, type ShortTimeSpectrum, SPECTRUM_FLOATS } from './level.ts';
import { emptyState, PairEvidence, type PairState, type Presence } from './pair.ts';
import { THRESHOLDS } from './thresholds.ts';
import { REFERENCE_FLOOR, TRACK_FLOOR, UNFINISHED_FRAMES, Whitener } from './whiten.ts';
import { isCandidate, type WindowEvidence } from './windowEvidence.ts';
import {
  FLAT_RATE,
  FLAT_WINDOW_FRAMES,
  FRAMES_PER_FLAT_FRAME,
  HIGH_HZ,
  HOP_FRAMES,
  LOW_HZ,
  RATE,
  SILENCE_RMS,
  STRETCHES,
  TRANSFORM_FRAMES,
  WINDOW_FRAMES,
} from './windows.ts';

const { abs, max, min, round, sqrt } = Math;

const BANDWIDTH = 2 * (HIGH_HZ - LOW_HZ);
/** Floats that a sound needs for its window and what is made of it, and what all work on together (less than this). */
const SOUND_FLOATS = WINDOW_FRAMES + FLAT_WINDOW_FRAMES + TRANSFORM_FRAMES + 64;
const SHARED_FLOATS = 1 << 21;

/** Both sides of a sound; a mono sound's are the same. */
type Sides = readonly [Float32Array, Float32Array];

/** A window as it is compared: flattened, with a floor of its own for references and for tracks. */
interface Flattened {
  flat: Float32Array;
  phases: Float32Array;
  floor: number;
  share: number;
}

/** One sound's latest window and what was made of it. */
interface Sound {
  window: Float32Array;
  /** The mean power of each quarter of a second of it. */
  powers: Float64Array;
  asTrack: Flattened | null;
  asReference: Flattened | null;
  /** Too quiet for a reference. */
  silent: boolean;
  active: boolean[];
  /** Nothing but zeros. */
  empty: boolean;
  spectra: Map<number, ShortTimeSpectrum>;
}

/** Options of a survey of some references and tracks, which are counted from zero. */
export interface SurveyOptions {
  /** Limits the search to ±1 ms of lags that are known from an earlier look. */
  around?: (reference: number, track: number) => LagTrend | null;
  /** Which pairs are looked at; all when left out. */
  isWanted?: (reference: number, track: number) => boolean;
  /** Which track a reference is, where it is one; null where it is none. */
  trackOf?: (reference: number) => number | null;
  /** The number of the first window, for a part of a recording: its sound begins so many times 2.5 s in. */
  firstWindow?: number;
}

/**
 * Looks for every reference in every track, as the sounds pass by. All sounds are at 48 kHz and start together; the mean
 * of their sides is looked at.
 * Feed portions of any length; windows of 5 s are examined every 2.5 s. Memory does not grow with the length,
 * but for a few numbers for each window and pair.
 *
 * @example
 * const survey = new PresenceSurvey(await loadFft(), 1, 1);
 * survey.add([[left, right]], [[track, track]], left.length);
 * survey.results()[0][0].present;
 */
export class PresenceSurvey {
  private readonly kernels: Kernels;
  private readonly sides: Sides;
  private readonly whitener: Whitener;
  private readonly correlator: Correlator;
  private readonly levels: LevelEstimator;
  private readonly references: Sound[];
  private readonly tracks: Sound[];
  /** All of them, each once. */
  private readonly sounds: Sound[];
  private readonly pairs: PairEvidence[][];
  private readonly lags: Float32Array;
  /** The known lags of each pair, or null. */
  private readonly around: (LagTrend | null)[][];
  private readonly wanted: boolean[][];
  /** Spectra that are not in use: they are as large as a window and needed for every one. */
  private readonly spare: ShortTimeSpectrum[] = [];
  private filled = 0;
  private windowIndex: number;
  private readonly firstWindow: number;
  private frames = 0;

  /** @param makeFft from `loadFft()` */
  constructor(
    makeFft: (size: number) => RealFft,
    references: number,
    tracks: number,
    { around = () => null, isWanted = () => true, trackOf = () => null, firstWindow = 0 }: SurveyOptions = {},
  ) {
    this.firstWindow = firstWindow;
    this.windowIndex = firstWindow;
    // A reference that is looked for has one spectrum for each lag, at most one a track; a track has one.
    const spectra = 2 * tracks;
    const floats =
      SHARED_FLOATS +
      (references + tracks) * SOUND_FLOATS +
      references * tracks * (LAGS + 3) +
      spectra * SPECTRUM_FLOATS;
    const kernels = new Kernels(floats);
    this.kernels = kernels;
    this.lags = kernels.floats(LAGS);
    this.sides = [kernels.floats(WINDOW_FRAMES), kernels.floats(WINDOW_FRAMES)];
    this.whitener = new Whitener(makeFft, kernels);
    this.correlator = new Correlator(makeFft, kernels);
    this.levels = new LevelEstimator(makeFft, kernels);
    this.tracks = Array.from({ length: tracks }, () => ({
      ...emptySound(kernels),
      asTrack: flattened(kernels, TRACK_FLOOR, TRACK_SHARE),
    }));
    this.references = Array.from({ length: references }, (_, reference) => {
      const track = trackOf(reference);
      const sound = track === null ? emptySound(kernels) : this.tracks[track];
      sound.asReference = flattened(kernels, REFERENCE_FLOOR, REFERENCE_SHARE);
      return sound;
    });
    this.sounds = [...new Set([...this.tracks, ...this.references])];
    this.pairs = Array.from({ length: references }, () =>
      Array.from({ length: tracks }, () => new PairEvidence(emptyState(kernels.floats(LAGS)))),
    );
    const table = <T>(of: (reference: number, track: number) => T) =>
      Array.from({ length: references }, (_, r) => Array.from({ length: tracks }, (_one, t) => of(r, t)));
    this.wanted = table(isWanted);
    this.around = table(around);
  }

  /** Takes the next `frames` frames of every reference and every track; what a reference has that is a track is taken from there. */
  add(references: Sides[], tracks: Sides[], frames: number): void {
    for (let from = 0; from < frames; ) {
      const count = min(frames - from, WINDOW_FRAMES - this.filled);
      this.tracks.forEach((sound, i) => {
        this.take(sound, tracks[i], from, count);
      });
      this.references.forEach((sound, i) => {
        if (!sound.asTrack) this.take(sound, references[i], from, count);
      });
      this.filled += count;
      this.frames += count;
      from += count;
      if (this.filled === WINDOW_FRAMES) this.examineAndMove();
    }
  }

  /** Adds a portion to a window as the mean of both sides: see `toMono`. */
  private take({ window }: Sound, [left, right]: Sides, from: number, count: number): void {
    const { loops } = this.kernels;
    const [ours, theirs] = this.sides;
    const at = window.byteOffset + this.filled * window.BYTES_PER_ELEMENT;
    ours.set(left.subarray(from, from + count));
    theirs.set(right.subarray(from, from + count));
    loops.mean(ours.byteOffset, theirs.byteOffset, at, count);
    const side = loops.dot(ours.byteOffset, ours.byteOffset, count);
    if (loops.dot(at, at, count) <= side * CANCELLED_SHARE) window.set(ours.subarray(0, count), this.filled);
  }

  /** Examines what is left and decides: `results()[reference][track]`. Nothing can be added afterwards. */
  results(): Presence[][] {
    this.finish();
    return this.pairs.map((row) => row.map((pair) => pair.result(this.frames / RATE)));
  }

  /** Examines what is left and returns what was gathered of each pair. Nothing can be added afterwards. */
  states(): PairState[][] {
    this.finish();
    return this.pairs.map((row) => row.map(({ state }) => ({ ...state, sum: state.sum.slice() })));
  }

  private finish(): void {
    const isShort = this.windowIndex === 0 && this.filled > 0;
    if (this.filled <= HOP_FRAMES && !isShort) return;
    for (const sound of this.sounds) sound.window.fill(0, this.filled);
    this.examine();
  }

  private examineAndMove(): void {
    this.examine();
    for (const sound of this.sounds) {
      sound.window.copyWithin(0, HOP_FRAMES);
      sound.powers.copyWithin(0, STRETCHES / 2);
      for (const { flat } of formsOf(sound)) flat.copyWithin(0, HOP_FRAMES / FRAMES_PER_FLAT_FRAME);
    }
    this.filled = WINDOW_FRAMES - HOP_FRAMES;
    this.windowIndex += 1;
  }

  private examine(): void {
    for (const sound of this.sounds) this.prepare(sound);
    for (const sound of this.references) sound.active = activeStretches(sound.powers);
    this.references.forEach((reference, r) => {
      this.tracks.forEach((track, t) => {
        if (this.wanted[r][t])
          this.pairs[r][t].addWindow(
            this.examinePair(reference, track, this.pairs[r][t], this.lagAround(this.around[r][t])),
          );
      });
      if (!reference.asTrack) this.dropSpectra(reference);
    });
    for (const track of this.tracks) this.dropSpectra(track);
  }

  /** The known lag in this window (frames of flattened sound), or null. */
  private lagAround(trend: LagTrend | null): number | null {
    return trend && round(trend.atStart + trend.perWindow * this.windowIndex);
  }

  private prepare(sound: Sound): void {
    const wasEmpty = sound.empty;
    const isFirst = this.windowIndex === this.firstWindow;
    stretchPowers(this.kernels.loops, sound.window, sound.powers, isFirst ? 0 : STRETCHES / 2);
    const power = mean(sound.powers);
    sound.silent = power < SILENCE_RMS * SILENCE_RMS;
    sound.empty = power === 0;
    if (sound.empty) return;
    const known = isFirst || wasEmpty ? 0 : WINDOW_FRAMES - HOP_FRAMES - UNFINISHED_FRAMES;
    const forms = formsOf(sound);
    this.whitener.whiten(sound.window, forms, known);
    for (const { flat, phases, share } of forms) this.correlator.phases(flat, phases, share);
  }

  private dropSpectra({ spectra }: Sound): void {
    this.spare.push(...spectra.values());
    spectra.clear();
  }

  private examinePair(
    reference: Sound,
    track: Sound,
    pair: PairEvidence,
    around: number | null,
  ): WindowEvidence {
    const nothing: WindowEvidence = {
      index: this.windowIndex,
      order: pair.state.testable,
      testable: !reference.silent,
      referenceDb: 10 * Math.log10(max(mean(reference.powers), 1e-12)),
      peak: null,
      spread: 0,
      activeStretches: reference.active.filter(Boolean).length,
      newStretches: reference.active.slice(this.windowIndex === 0 ? 0 : STRETCHES / 2).filter(Boolean).length,
      firstClear: -1,
      lastClear: -1,
      gain: 0,
      weight: 0,
      gainLag: null,
      significance: 0,
    };
    const [mine, theirs] = [reference.asReference, track.asTrack];
    if (reference.silent || track.empty || !mine || !theirs) return nothing;
    this.correlator.correlate(mine.phases, theirs.phases, this.lags);
    pair.addLags(this.kernels.loops, this.lags);
    const near = FLAT_RATE / 1000;
    const peak =
      around === null
        ? peakOf(this.kernels.loops, this.lags)
        : highestPeak(this.lags, around - near, around + near);
    if (around === null && peak.height < THRESHOLDS.windowAtLag) return { ...nothing, peak };
    const stretches = stretchEvidence(this.kernels.loops, mine.flat, theirs.flat, peak, BANDWIDTH);
    const clear = clearStretches(stretches);
    const evidence = {
      ...nothing,
      peak,
      firstClear: clear.indexOf(true),
      lastClear: clear.lastIndexOf(true),
      spread: spreadEvidence(stretches, reference.active),
    };
    const fileLag = around ?? pair.fileLag();
    const lag = peak.height >= THRESHOLDS.window || isCandidate(evidence, fileLag) ? peak.lag : fileLag;
    if (lag === null) return evidence;
    const before = around === null ? pair.estimateBefore(this.windowIndex, lag) : null;
    return before
      ? { ...evidence, significance: before.significance }
      : {
          ...evidence,
          gainLag: lag,
          ...this.gainAt(reference, track, lag, gainBlock(stretches), peak.height >= THRESHOLDS.beyondChance),
        };
  }

  private gainAt(
    reference: Sound,
    track: Sound,
    lag: number,
    stretches: boolean[],
    mayBeInParts: boolean,
  ): { gain: number; weight: number; significance: number } {
    const frames = lag * FRAMES_PER_FLAT_FRAME;
    const whole = round(frames);
    const { gain, weight } = this.levels.gainOf(
      this.spectrum(reference, -whole),
      this.spectrum(track, 0),
      frames - whole,
      stretches,
      mayBeInParts,
    );
    return { gain, weight, significance: abs(gain) * sqrt(weight) };
  }

  private spectrum(sound: Sound, shift: number): ShortTimeSpectrum {
    let spectrum = sound.spectra.get(shift);
    if (!spectrum) {
      spectrum = this.spare.pop() ?? this.levels.newSpectrum();
      this.levels.spectrumOf(sound.window, shift, spectrum);
      sound.spectra.set(shift, spectrum);
    }
    return spectrum;
  }
}

function emptySound(kernels: Kernels): Sound {
  return {
    window: kernels.floats(WINDOW_FRAMES),
    powers: new Float64Array(STRETCHES),
    asTrack: null,
    asReference: null,
    silent: true,
    active: [],
    empty: true,
    spectra: new Map(),
  };
}

function flattened(kernels: Kernels, floor: number, share: number): Flattened {
  return {
    flat: kernels.floats(FLAT_WINDOW_FRAMES),
    phases: kernels.floats(TRANSFORM_FRAMES),
    floor,
    share,
  };
}

function formsOf({ asTrack, asReference }: Sound): Flattened[] {
  return [asTrack, asReference].filter((form) => form !== null);
}

function mean(values: Float64Array): number {
  return values.reduce((sum, value) => sum + value, 0) / values.length;
}
