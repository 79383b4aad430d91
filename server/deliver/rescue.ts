import { rename, rm } from 'node:fs/promises';
import { newStereo, type Stereo } from '../../core/audio/planes.ts';
import type { LeakInterval, Verdict } from '../../core/check/verification.ts';
import { withFft } from '../../core/measure/fft.ts';
import { downDb, type Subtraction, type SubtractionRequest, subtract } from '../../core/rescue/subtract.ts';
import type { TaskRunner } from '../jobs/runner.ts';
import { verifyRecording } from '../jobs/verify.ts';
import { AudioFile } from '../media/audioFile.ts';
import { refuseOver } from '../media/keepOriginals.ts';
import { MediaError } from '../media/mediaError.ts';
import type { Reference } from '../media/references.ts';
import { STEM_RATE, Stem } from '../media/stem.ts';
import { losslessly, TakeWriter } from '../media/takeWriter.ts';
import { UntilDamage } from '../media/untilDamage.ts';
import { checkUpload } from './checkUpload.ts';

/** A track that something is to be taken out of (counted from zero), and the sound of that alone. */
export interface RescueRequest {
  path: string;
  track: number;
  reference: Reference;
  outPath: string;
}

/** A stretch in which something was taken out. */
export interface RescuedStretch {
  startS: number;
  endS: number;
  /** How loud it was, against the sound alone; and how far down it went, as far as that can be known (dB). */
  levelDb: number;
  downDb: number | null;
}

/** What came of a rescue. */
export interface Rescue {
  downDb: number | null;
  intervals: RescuedStretch[];
  /** What a check of the new track says. */
  verdict: Verdict;
  /** What is left in it, by that check. */
  leaks: LeakInterval[];
}

/** A sound is taken out of so much at a time (s), each part overlapping the next by so much. */
const SECTION_S = 30;
const OVERLAP_S = 1;
/** A stretch may begin earlier and end later than it was heard (s). */
const AROUND_S = 2.5;
/** So much of the reference is read before and after what is needed (s). */
const MARGIN_S = 1;

/** A track that may be longer than this is written as RF64 (s): floats in stereo pass 4 GB after three hours. */
const LARGE_S = 2 * 3600;
/** What a coder made of a sound beside others does not go with it: no more than this is claimed where a track was coded (dB). */
const MOST_AFTER_CODING_DB = 12;

/** A part of a stretch (frames of the track). */
interface Section {
  from: number;
  to: number;
  leak: LeakInterval;
}

/**
 * Takes a sound out of a track, wherever a check finds it, and checks what is left. Where it is not found, the track stays as it is.
 * @throws {MediaError} when a file does not decode, has no such track or one of more than two channels, or would be written over
 */
export async function rescueTrack(
  runner: TaskRunner,
  { path, track, reference, outPath }: RescueRequest,
  onProgress: (share: number) => void = () => {},
): Promise<Rescue> {
  await refuseOver(outPath, [path, reference.path]);
  const asked = { ...reference, forbiddenIn: [track] };
  const { leaks } = await verifyRecording(runner, path, [asked], {
    onProgress: (share) => onProgress(0.3 * share),
  });
  const sections = sectionsOf(leaks);
  const part = `${outPath}.part`;
  try {
    const done = await writeWithout({ path, track, reference, sections, outPath: part }, (share) =>
      onProgress(0.3 + 0.4 * share),
    );
    const { verdict, leaks: left } = await checkUpload(
      runner,
      { path, outPath: part, fromS: 0, lengthS: done.frames / STEM_RATE },
      [reference],
      (share) => onProgress(0.7 + 0.3 * share),
    );
    await rename(part, outPath);
    const down = (parts: Subtraction[]) => {
      const known = downDb(parts);
      return known === null || !done.isLossy ? known : Math.min(known, MOST_AFTER_CODING_DB);
    };
    return {
      downDb: down(done.parts),
      intervals: leaks.map((leak) => ({
        startS: leak.startS,
        endS: leak.endS,
        levelDb: leak.levelDb,
        downDb: down(done.parts.filter((_, at) => sections[at].leak === leak)),
      })),
      verdict,
      leaks: left,
    };
  } finally {
    await rm(part, { force: true });
  }
}

function sectionsOf(leaks: LeakInterval[]): Section[] {
  const sections: Section[] = [];
  let free = 0;
  for (const leak of [...leaks].sort((a, b) => a.startS - b.startS)) {
    const start = Math.max(free, Math.round((leak.startS - AROUND_S) * STEM_RATE), 0);
    const end = Math.round((leak.endS + AROUND_S) * STEM_RATE);
    const step = (SECTION_S - OVERLAP_S) * STEM_RATE;
    const count = Math.max(1, Math.ceil((end - start - OVERLAP_S * STEM_RATE) / step));
    for (let at = 0; at < count; at++) {
      const from = start + at * step;
      sections.push({ from, to: Math.min(end, from + SECTION_S * STEM_RATE), leak });
    }
    free = end;
  }
  return sections;
}

interface Without {
  path: string;
  track: number;
  reference: Reference;
  sections: Section[];
  outPath: string;
}

/** Writes a track without a sound. @returns what was taken in each section, and how long the track is (frames) */
async function writeWithout(
  { path, track, reference, sections, outPath }: Without,
  onProgress: (share: number) => void,
): Promise<{ parts: Subtraction[]; frames: number; isLossy: boolean }> {
  const file = await AudioFile.open(path, { allowCut: true });
  const info = file.tracks[track];
  const stem = Stem.of(file, track);
  try {
    if (info.channels > 2)
      throw new MediaError(
        'unsupported',
        `Track ${track + 1} has ${info.channels} channels. Only one or two can be rescued: fold it to stereo first.`,
      );
    const sheet = losslessly(info, info.name ?? 'Rescued');
    const isLarge = info.durationS > LARGE_S;
    return await TakeWriter.write(outPath, [sheet], { container: 'wav', isLarge }, async (writer) => {
      const passing = new PassingTrack(stem, writer, (frames) =>
        onProgress(Math.min(1, frames / STEM_RATE / Math.max(1, info.durationS))),
      );
      const parts: Subtraction[] = [];
      await withFft(async (makeFft) => {
        for (const section of sections) {
          const mix = await passing.readTo(section.from, section.to);
          if (mix[0].length === 0) return;
          const found = subtract(makeFft, { mix, ...(await alone(path, reference, section, mix[0].length)) });
          parts.push(found);
          // At the very beginning and end of the track there is nothing to fade from or to.
          const isAtEnd =
            mix[0].length < section.to - section.from || section.to >= info.durationS * STEM_RATE;
          passing.takeOut(found.taken, section.from, { fadesIn: section.from > 0, fadesOut: !isAtEnd });
          await passing.writeTo(section.to - OVERLAP_S * STEM_RATE);
        }
      });
      return {
        parts,
        frames: await passing.writeAll(),
        isLossy: !info.codec.startsWith('pcm') && info.codec !== 'flac',
      };
    });
  } finally {
    await stem.close();
    file.close();
  }
}

/** The sound alone as it lies in a section of the track: where it begins there, and how it drifts. */
async function alone(
  path: string,
  reference: Reference,
  { from, leak }: Section,
  frames: number,
): Promise<Omit<SubtractionRequest, 'mix'>> {
  const perSample = (leak.driftPpm ?? 0) * 1e-6;
  const fromS = from / STEM_RATE;
  // The offset is that of the middle of the stretch.
  const lagS = leak.offsetMs / 1000 + perSample * (fromS - (leak.startS + leak.endS) / 2);
  const soundFromS = Math.max(0, fromS - lagS - MARGIN_S);
  return {
    reference: await stereoOf(path, reference, soundFromS, frames / STEM_RATE + 2 * MARGIN_S),
    margin: Math.round((fromS - lagS - soundFromS) * STEM_RATE),
    lag: { atStart: 0, perSample },
  };
}

/** A track that passes by from a file into another one, of which a part is held: as it was, and as it is to be. */
class PassingTrack {
  private readonly stem: Stem;
  private readonly writer: TakeWriter;
  private readonly onWritten: (frames: number) => void;
  private written = 0;
  private was = newStereo(0);
  private becomes = newStereo(0);

  constructor(stem: Stem, writer: TakeWriter, onWritten: (frames: number) => void) {
    this.stem = stem;
    this.writer = writer;
    this.onWritten = onWritten;
  }

  /** Returns the track from one frame to another as it was, or as much as there is; what lies before is written. */
  async readTo(from: number, to: number): Promise<Stereo> {
    while (this.written < from) {
      const next = Math.min(from, this.written + STEM_RATE);
      await this.read(next);
      if (this.was[0].length === 0) break;
      await this.writeTo(next);
    }
    await this.read(to);
    const [start, end] = [from - this.written, to - this.written];
    return [this.was[0].subarray(start, end), this.was[1].subarray(start, end)];
  }

  /** Subtracts a sound from a frame on, fading where sections overlap. */
  takeOut(taken: Stereo, from: number, { fadesIn, fadesOut }: { fadesIn: boolean; fadesOut: boolean }): void {
    const overlap = OVERLAP_S * STEM_RATE;
    for (const side of [0, 1]) {
      const plane = this.becomes[side].subarray(from - this.written);
      const frames = Math.min(plane.length, taken[side].length);
      for (let i = 0; i < frames; i++) {
        const before = fadesIn ? i / overlap : 1;
        const after = fadesOut ? (taken[side].length - i) / overlap : 1;
        plane[i] -= taken[side][i] * Math.min(1, before, after);
      }
    }
  }

  /** Writes what is held up to a frame. */
  async writeTo(frame: number): Promise<void> {
    const count = Math.min(frame - this.written, this.becomes[0].length);
    if (count <= 0) return;
    await this.writer.add([this.becomes], count);
    this.was = [this.was[0].slice(count), this.was[1].slice(count)];
    this.becomes = [this.becomes[0].slice(count), this.becomes[1].slice(count)];
    this.written += count;
    this.onWritten(this.written);
  }

  /** Writes all that is left. @returns how long the track is (frames) */
  async writeAll(): Promise<number> {
    for (;;) {
      await this.read(this.written + this.was[0].length + STEM_RATE);
      if (this.becomes[0].length === 0) return this.written;
      await this.writeTo(this.written + this.becomes[0].length);
    }
  }

  private async read(to: number): Promise<void> {
    const more = to - this.written - this.was[0].length;
    if (more <= 0) return;
    const read = newStereo(more);
    const got = await this.stem.read(read, more);
    this.was = joined(this.was, read, got);
    this.becomes = joined(this.becomes, read, got);
  }
}

function joined(before: Stereo, more: Stereo, count: number): Stereo {
  const one = (side: 0 | 1) => {
    const whole = new Float32Array(before[side].length + count);
    whole.set(before[side]);
    whole.set(more[side].subarray(0, count), before[side].length);
    return whole;
  };
  return [one(0), one(1)];
}

/** A stretch of the sound alone (s). */
async function stereoOf(path: string, reference: Reference, fromS: number, lengthS: number): Promise<Stereo> {
  const file = await AudioFile.open(reference.path ?? path, { allowCut: true });
  const stem = new UntilDamage(Stem.of(file, reference.track ?? 0, { fromS }));
  try {
    const planes = newStereo(Math.round(lengthS * STEM_RATE));
    await stem.read(planes, planes[0].length);
    return planes;
  } finally {
    await stem.close();
    file.close();
  }
}
