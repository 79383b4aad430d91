import { robustSpread } from '../measure/presence/correlate.ts';
import { addArrival, type CodeArrival, type CodeChange, type CodeSight, takenFrom } from './arrivals.ts';
import { AMPLITUDE } from './code.ts';
import { areTangled, copiesIn } from './copies.ts';
import { leastShare, type PartRead, QUIETEST } from './part.ts';
import { addressOf, around, fold, modulo, PERIOD } from './periods.ts';
import type { Code, PeriodSound, PeriodSpectra } from './spectra.ts';
import { areApart, type Stretch, spanOf, stretchAt } from './stretch.ts';

const { abs, floor, max, min, round, sqrt } = Math;

/** What was read of a channel. */
export interface ChannelReading {
  arrivals: CodeArrival[];
  /** What was taken out, and is too quiet to be an arrival by itself. */
  faint: CodeArrival[];
  /** False where a code stood out, and it was not known yet when it sounds. */
  isWhole: boolean;
  /** All that was done to the samples, in turn. */
  changes: CodeChange[];
}

/** What is left of codes that were gated or reduced resembles others: an arrival is louder than this share of it (−24 dB). */
const RESEMBLANCE = 0.063;
/**
 * A compressor leaves traces of the codes, which look like quiet ones. An arrival is this many times as loud as the loudest trace of a code
 * that nobody plays.
 */
const OVER_LEFT = 3;
/** The mean power of a code as it is played. */
const CODE_POWER = AMPLITUDE ** 2 / 2;
/** In one round, codes down to this share of the loudest are read; quieter ones may be its side lobes, and come when it is taken out. */
const ROUND_SHARE = 0.15;
const MOST_ROUNDS = 10;
/**
 * Arrivals below this share of the loudest (−35 dB) are put back and read again once all louder codes are taken out, because side lobes of
 * those may have been mistaken for quiet codes.
 */
const CHECKED_SHARE = 0.018;
/** What is left when copies are taken out wrongly looks like them still, so that they are read anew so many times. */
const UNTANGLED = 2;
/** Where a code has less than this share of what was seen of it over the whole, it sounds at another time as well. */
const AGAIN_SHARE = 0.5;
/** A code that is expected at one lag stands out there with so many spreads. */
const KNOWN_HEIGHT = 4;
/** In the mean of a whole recording, a code that sounds in part of it is quieter than it is, down to this share. */
const IN_PART = 0.3;
/** A stretch that is less sure is none. */
const LEAST_SURE = 1.5;
/** The lag at which a code is first seen is off by no more than this (frames). */
const BESIDE_FRAMES = 5;
/** In one round, a copy of a code is read that has this share of its loudest arrival at least, this far from it (frames). */
const COPY_SHARE = 0.5;
const COPY_FRAMES = 12;

/** A stretch of what was left of a channel, as the mean of its periods. */
interface Folded {
  samples: Float32Array;
  from: number;
  to: number;
  mean: PeriodSound;
}

/** Reads which codes arrive on one channel of a recording, and how: the loudest are taken out before the next are looked for. */
export class ChannelReader {
  private readonly spectra: PeriodSpectra;
  private readonly codes: Code[];
  private readonly decoys: Code[];
  private readonly lags: Float32Array;
  private readonly folded: Float32Array;
  private readonly period: Float32Array;
  /** What {@link at} folded last: both sides of a source are looked for in the same stretch. */
  private lastFolded: Folded | null = null;
  private changes: CodeChange[] = [];

  /** @param decoys codes that nobody plays */
  constructor(spectra: PeriodSpectra, codes: Code[], decoys: Code[]) {
    this.spectra = spectra;
    [this.lags, this.folded, this.period] = [0, 1, 2].map(() => spectra.newPeriod());
    this.codes = codes;
    this.decoys = decoys;
  }

  /**
   * Reads every arrival of some sources on a channel.
   * @param samples are overwritten by what is left when all that was read is taken out
   * @param isLossy whether the channel was coded with loss
   * @param stretches when each source sounds, as far as is known; better ones that are seen here are put in their place
   * @param part of the codes, where only those of one clock are read
   */
  read(
    samples: Float32Array,
    stretches: (Stretch | null)[],
    isLossy = false,
    part: PartRead = {},
  ): ChannelReading {
    const held = this.spectra.hold(samples);
    this.changes = [];
    const reading = this.readHeld(held, stretches, isLossy, part);
    samples.set(held);
    return { ...reading, changes: this.changes };
  }

  private readHeld(
    samples: Float32Array,
    stretches: (Stretch | null)[],
    isLossy: boolean,
    part: PartRead,
  ): Omit<ChannelReading, 'changes'> {
    const { sources = null, known = [], loudestElsewhere = 0 } = part;
    const found = [...known];
    const share = leastShare(isLossy, part);
    const loudestNow = () => max(loudestElsewhere, ...found.map(({ gain }) => abs(gain)));
    const readOn = () =>
      this.readOn(samples, found, stretches, sources, () => max(QUIETEST, share * loudestNow()));
    let isWhole = readOn();
    const isAnew = this.untangle(samples, found, sources);
    const doubtful = takenFrom(found, CHECKED_SHARE * loudestNow());
    const putBack = new Set(doubtful.map(({ code }) => this.codes[code].source));
    for (const { code } of found) putBack.delete(this.codes[code].source);
    if (isAnew || doubtful.length > 0) {
      this.putBackHeld(samples, doubtful);
      this.fitAgain(samples, found, stretches);
      isWhole = readOn();
      // Sources of which everything was put back were read as if each came once.
      this.untangle(samples, found, putBack);
    }
    const least = max(
      QUIETEST,
      share * loudestNow(),
      RESEMBLANCE * this.repeatingLevel(samples),
      OVER_LEFT * this.loudestDecoy(samples),
    );
    return {
      arrivals: found.filter(({ gain }) => abs(gain) >= least),
      faint: found.filter(({ gain }) => abs(gain) < least),
      isWhole,
    };
  }

  /**
   * Takes out one arrival after the other, the loudest first, and adds them to the list of those found.
   * @param quietest returns the gain below which nothing is read
   * @returns false where a code stood out but it was not known yet when it sounds
   */
  private readOn(
    samples: Float32Array,
    found: CodeArrival[],
    stretches: (Stretch | null)[],
    sources: ReadonlySet<number> | null,
    quietest: () => number,
  ): boolean {
    let isWhole = true;
    for (let turn = 0; turn < MOST_ROUNDS; turn++) {
      let isAnyTaken = false;
      for (const one of this.seenNow(samples, quietest(), sources)) {
        const arrival = this.takeOut(samples, one, stretches);
        if (arrival && arrival !== 'again') addArrival(found, arrival);
        if (arrival) isAnyTaken = true;
        else if (!stretches[this.codes[one.code].source]) isWhole = false;
      }
      if (!isAnyTaken) break;
    }
    return isWhole;
  }

  /**
   * Reads codes anew of which close copies were found.
   * @returns whether there were any
   */
  private untangle(
    samples: Float32Array,
    found: CodeArrival[],
    sources: ReadonlySet<number> | null,
  ): boolean {
    let isAny = false;
    for (const [index, code] of this.codes.entries()) {
      if (sources && !sources.has(code.source)) continue;
      for (let turn = 0; turn < UNTANGLED; turn++) {
        const own = found.filter((one) => one.code === index);
        if (own.length < 2 || !areTangled(own)) break;
        const { stretch, lag, gain } = own.reduce((best, one) =>
          abs(one.gain) > abs(best.gain) ? one : best,
        );
        const { from, to } = spanOf(stretch, lag, samples.length);
        const left = this.spectra.meanOf(samples, from, to);
        if (!left) break;
        this.putBackHeld(samples, own);
        const whole = this.spectra.meanOf(samples, from, to) ?? left;
        const copies = copiesIn(this.spectra, code, { whole, left, gain }, this.lags).map((copy) => ({
          ...{ code: index, stretch },
          ...{ lag: modulo(copy.lag), gain: copy.gain },
        }));
        this.putBackHeld(
          samples,
          copies.map((one) => ({ ...one, gain: -one.gain })),
        );
        const others = found.filter((one) => one.code !== index);
        found.splice(0, found.length, ...others, ...copies);
        isAny = true;
      }
    }
    return isAny;
  }

  /** Fits each arrival again with all others taken out, the loudest first: what a poor first fit leaves behind covers quiet codes. */
  private fitAgain(samples: Float32Array, found: CodeArrival[], stretches: (Stretch | null)[]): void {
    found.sort((a, b) => abs(b.gain) - abs(a.gain));
    for (const [at, one] of found.entries()) {
      this.putBackHeld(samples, [one]);
      const again = this.takeOut(samples, one, stretches);
      if (again && again !== 'again') found[at] = again;
      else this.putBackHeld(samples, [{ ...one, gain: -one.gain }]);
    }
  }

  /**
   * Fits a code to a sound at the best match near a lag. A louder code can shift the lag at which a code is first seen, and a fit that starts
   * beside the right lag ends at a wrong one.
   */
  private fitNear(mean: PeriodSound, code: Code, near: number): { lag: number; gain: number } {
    this.spectra.correlate(mean, code, this.lags);
    let best: { lag: number; gain: number } | null = null;
    for (let at = round(near) - BESIDE_FRAMES; at <= round(near) + BESIDE_FRAMES; at++) {
      if (!this.isPeak(at)) continue;
      const one = this.spectra.fit(mean, code, at);
      if (!best || abs(one.gain) > abs(best.gain)) best = one;
    }
    return best ?? this.spectra.fit(mean, code, near);
  }

  private isPeak(at: number): boolean {
    const sizeAt = (frame: number) => abs(this.lags[modulo(frame)]);
    return sizeAt(at) >= sizeAt(at - 1) && sizeAt(at) >= sizeAt(at + 1);
  }

  /**
   * How loud what is left of a channel is in the band of the codes, as far as it repeats with them (as a gain of one): what a gate or noise
   * reduction made of the codes, and not voices or noise.
   */
  private repeatingLevel(rest: Float32Array): number {
    const periods = floor(rest.length / PERIOD);
    if (periods < 2) return 0;
    fold(this.spectra.loops, this.folded, rest, 0, rest.length);
    const folded = this.spectra.powerOf(this.folded);
    let whole = 0;
    for (let at = 0; at < periods; at++)
      whole += this.spectra.powerOf(rest.subarray(at * PERIOD, (at + 1) * PERIOD)) / periods;
    if (whole === 0) return 0;
    const share = max(0, (folded / whole - 1 / periods) / (1 - 1 / periods));
    return sqrt((share * whole) / CODE_POWER);
  }

  /** How loud codes that nobody plays seem to be in what is left of a channel: the loudest of them (as a gain). */
  private loudestDecoy(rest: Float32Array): number {
    const mean = this.spectra.meanOf(rest);
    return mean ? max(0, ...this.decoys.map((decoy) => this.spectra.peakIn(mean, decoy).gain)) : 0;
  }

  /** The arrivals that stand out now, the loudest first, down to a share of the loudest. */
  private seenNow(samples: Float32Array, quietest: number, sources: ReadonlySet<number> | null): CodeSight[] {
    const mean = this.spectra.meanOf(samples);
    if (!mean) return [];
    const { lags, spectra } = this;
    const least = spectra.leastHeightIn(mean, this.decoys);
    const seen: CodeSight[] = [];
    this.codes.forEach((code, index) => {
      if (sources && !sources.has(code.source)) return;
      spectra.correlate(mean, code, lags);
      const spread = robustSpread(lags);
      const first = spectra.highest(lags);
      const loudest = abs(lags[first]);
      const level = max(least * spread, COPY_SHARE * loudest, IN_PART * quietest);
      for (let at = first; abs(lags[at]) >= level; at = spectra.highest(lags)) {
        seen.push({ code: index, lag: at, gain: lags[at] });
        clearAround(lags, at);
      }
    });
    const loudest = max(0, ...seen.map(({ gain }) => abs(gain)));
    return seen
      .filter(({ gain }) => abs(gain) >= ROUND_SHARE * loudest)
      .sort((a, b) => abs(b.gain) - abs(a.gain));
  }

  /**
   * Fits a code over all its whole periods, and takes it out of the samples wherever it sounds. Null where it sounds for less than one; `again` where
   * its source was played again, which is no other arrival.
   */
  private takeOut(
    samples: Float32Array,
    seen: CodeSight,
    stretches: (Stretch | null)[],
  ): CodeArrival | 'again' | null {
    const { spectra } = this;
    const { code, lag: near } = seen;
    const { source } = this.codes[code];
    let known = stretches[source];
    // The louder it is, the surer is when it sounds; the side lobes of other codes are quiet.
    const whole = abs(seen.gain) > (known?.gain ?? IN_PART * QUIETEST) ? spectra.meanOf(samples) : null;
    if (whole) {
      const { lag } = this.fitNear(whole, this.codes[code], near);
      const here = this.stretchOf(samples, code, lag);
      if (here && here.gain > (known?.gain ?? QUIETEST)) {
        known = here;
        stretches[source] = here;
      }
    }
    if (!known) return null;
    const { from, to } = spanOf(known, near, samples.length);
    const mean = spectra.meanOf(samples, from, to);
    if (!mean) return null;
    const { lag, gain } = this.fitNear(mean, this.codes[code], near);
    if (abs(gain) < AGAIN_SHARE * abs(seen.gain) && this.takeOutAgain(samples, seen, known)) return 'again';
    if (gain === 0 || abs(around(lag - near)) > COPY_FRAMES) return null;
    this.addCode(samples, { code, lag, gain: -gain }, from, to);
    return { code, lag: modulo(lag), gain, stretch: known };
  }

  /** Takes a code out where it was played again, at another time than the one by which its source is read. Returns whether it was. */
  private takeOutAgain(samples: Float32Array, { code, lag: near }: CodeSight, known: Stretch): boolean {
    const { spectra } = this;
    const whole = spectra.meanOf(samples);
    if (!whole) return false;
    const { lag } = this.fitNear(whole, this.codes[code], near);
    const again = this.stretchOf(samples, code, lag);
    if (!again || !areApart(again, known)) return false;
    const mean = spectra.meanOf(samples, again.from, again.to);
    if (!mean) return false;
    const fitted = this.fitNear(mean, this.codes[code], lag);
    this.addCode(samples, { code, lag: fitted.lag, gain: -fitted.gain }, again.from, again.to);
    return true;
  }

  /** When a code sounds that arrives at a lag; null where that is not sure. */
  private stretchOf(samples: Float32Array, code: number, lag: number): Stretch | null {
    const { spectra } = this;
    const period = spectra.delayed(this.codes[code], lag - floor(lag), this.period);
    const here = stretchAt(spectra.loops, samples, period, lag);
    return here.to - here.from >= PERIOD && here.sureness >= LEAST_SURE ? here : null;
  }

  /** Undoes changes of what was left of a channel. */
  undo(rest: Float32Array, changes: CodeChange[]): void {
    const held = this.spectra.hold(rest);
    for (const one of changes) this.addPeriods(held, { ...one, gain: -one.gain });
    rest.set(held);
  }

  private putBackHeld(rest: Float32Array, arrivals: CodeArrival[]): void {
    for (const one of arrivals) {
      const { from, to } = spanOf(one.stretch, one.lag, rest.length);
      this.addCode(rest, one, from, to);
    }
  }

  private addCode(samples: Float32Array, { code, lag, gain }: CodeSight, from: number, to: number): void {
    const change = { code, lag, gain, from, to };
    this.addPeriods(samples, change);
    this.changes.push(change);
  }

  private addPeriods(samples: Float32Array, { code, lag, gain, from, to }: CodeChange): void {
    const { spectra } = this;
    const period = spectra.delayed(this.codes[code], lag - floor(lag), this.period);
    for (let first = from; first < to; ) {
      const at = modulo(first - floor(lag));
      const end = min(to, first + PERIOD - at);
      spectra.loops.addScaled(addressOf(period, at), gain, addressOf(samples, first), end - first);
      first = end;
    }
  }

  /**
   * How loud a code is on a channel at a lag that is known from elsewhere; null where it does not stand out there.
   * @param rest what was left of the channel
   */
  at(rest: Float32Array, code: number, lag: number, stretch: Stretch): number | null {
    const { from, to } = spanOf(stretch, lag, rest.length);
    let last = this.lastFolded;
    if (!(last && last.samples === rest && last.from === from && last.to === to)) {
      const mean = this.spectra.meanOf(this.spectra.hold(rest), from, to);
      if (!mean) return null;
      last = { samples: rest, from, to, mean };
      this.lastFolded = last;
    }
    this.spectra.correlate(last.mean, this.codes[code], this.lags);
    const value = this.lags[round(lag) % PERIOD];
    return abs(value) >= KNOWN_HEIGHT * robustSpread(this.lags) ? value : null;
  }
}

function clearAround(lags: Float32Array, at: number): void {
  for (let i = at - COPY_FRAMES; i <= at + COPY_FRAMES; i++) lags[(i + PERIOD) % PERIOD] = 0;
}
