import { newStereo, type Stereo } from '../../core/audio/planes.ts';
import type { LeakInterval } from '../../core/check/verification.ts';
import { withFft } from '../../core/measure/fft.ts';
import { type Subtraction, type SubtractionRequest, Subtractor } from '../../core/rescue/subtract.ts';
import { AudioFile } from '../media/audioFile.ts';
import { MediaError } from '../media/mediaError.ts';
import type { Reference } from '../media/references.ts';
import { STEM_RATE, Stem } from '../media/stem.ts';
import { losslessly, TakeWriter } from '../media/takeWriter.ts';
import { UntilDamage } from '../media/untilDamage.ts';

/** Sections overlap by so much (s), and fade into each other there. */
export const OVERLAP_S = 1;
/** So much of the reference is read before and after what is needed (s). */
const MARGIN_S = 1;

/** A track that may be longer than this is written as RF64 (s): floats in stereo pass 4 GB after three hours. */
const LARGE_S = 2 * 3600;

/** A part of a stretch in which a sound was heard (frames of the track). */
export interface Section {
  from: number;
  to: number;
  leak: LeakInterval;
}

/** A track that a sound is to be taken out of, section by section. */
export interface WithoutRequest {
  path: string;
  /** Counted from zero. */
  track: number;
  reference: Reference;
  /** In their order; of the first and the last, a part may lie outside of what is written. */
  sections: Section[];
  /** Which part of the track is written (frames); to its end where that is null. */
  fromFrame: number;
  toFrame: number | null;
  outPath: string;
  /** Where what was taken out is written, to be heard; null writes it nowhere. */
  takenPath: string | null;
}

/** What was taken out of a part of a track: in each section, and how long what was written is (frames). */
export interface Without {
  /** Without the sound itself. */
  parts: Omit<Subtraction, 'taken'>[];
  frames: number;
  /** What was recorded had been through a coder that leaves something out. */
  isLossy: boolean;
}

/**
 * Writes a part of a track without a sound. It is read from its very start, so that parts go together to the frame.
 * @throws {MediaError} when a file does not decode, or the track has more than two channels
 */
export async function writeWithout(
  { path, track, reference, sections, fromFrame, toFrame, outPath, takenPath }: WithoutRequest,
  onProgress: (share: number) => void,
): Promise<Without> {
  const file = await AudioFile.open(path, { allowCut: true });
  const info = file.tracks[track];
  const stem = Stem.of(file, track);
  try {
    if (info.channels > 2)
      throw new MediaError(
        'unsupported',
        `Track ${track + 1} has ${info.channels} channels. Only one or two can be rescued: fold it to stereo first.`,
      );
    const isLossy = !isLossless(info.codec);
    const sheet = losslessly(info, info.name ?? 'Rescued');
    const how = { container: 'wav', isLarge: info.durationS > LARGE_S } as const;
    const write = async (writer: TakeWriter, taken: TakeWriter | null): Promise<Without> => {
      const end = toFrame ?? Number.POSITIVE_INFINITY;
      const expected = Math.max(STEM_RATE, Math.min(end, info.durationS * STEM_RATE) - fromFrame);
      const passing = new PassingTrack({ stem, writer, taken, from: fromFrame, to: end }, (frame) =>
        onProgress(Math.min(1, Math.max(0, frame - fromFrame) / expected)),
      );
      const parts: Without['parts'] = [];
      await withFft(async (makeFft) => {
        const subtractor = new Subtractor(makeFft);
        let room = newStereo(0);
        for (const section of sections) {
          const mix = await passing.readTo(section.from, section.to);
          if (mix[0].length === 0) return;
          const length = mix[0].length + 2 * MARGIN_S * STEM_RATE;
          if (length > room[0].length) room = newStereo(length);
          const planes: Stereo = [room[0].subarray(0, length), room[1].subarray(0, length)];
          const sound = await alone(path, reference, section, planes);
          const { taken, ...part } = subtractor.subtract({ mix, ...sound, isCoded: isLossy });
          parts.push(part);
          // At the very beginning and end of the track there is nothing to fade from or to.
          const isAtEnd =
            mix[0].length < section.to - section.from || section.to >= info.durationS * STEM_RATE;
          passing.takeOut(taken, section.from, { fadesIn: section.from > 0, fadesOut: !isAtEnd });
          await passing.writeTo(section.to - OVERLAP_S * STEM_RATE);
        }
      });
      return { parts, frames: (await passing.writeAll()) - fromFrame, isLossy };
    };
    return await TakeWriter.write(outPath, [sheet], how, (writer) =>
      takenPath === null
        ? write(writer, null)
        : TakeWriter.write(takenPath, [losslessly(info, 'Taken out')], how, (taken) => write(writer, taken)),
    );
  } finally {
    await stem.close();
    file.close();
  }
}

function isLossless(codec: string): boolean {
  return codec.startsWith('pcm') || codec === 'flac';
}

/** Reads the sound alone as it lies in a section of the track, into planes: where it begins there, and how it drifts. */
async function alone(
  path: string,
  reference: Reference,
  { from, leak }: Section,
  planes: Stereo,
): Promise<Omit<SubtractionRequest, 'mix' | 'isCoded'>> {
  const perSample = (leak.driftPpm ?? 0) * 1e-6;
  const fromS = from / STEM_RATE;
  // The offset is that of the middle of the stretch.
  const lagS = leak.offsetMs / 1000 + perSample * (fromS - (leak.startS + leak.endS) / 2);
  const soundFromS = Math.max(0, fromS - lagS - MARGIN_S);
  return {
    reference: await readAlone(path, reference, soundFromS, planes),
    margin: Math.round((fromS - lagS - soundFromS) * STEM_RATE),
    lag: { atStart: 0, perSample },
  };
}

/** A track, and where its part from one frame to another is written without a sound, and what was taken out of it. */
interface TrackPassage {
  stem: Stem;
  writer: TakeWriter;
  taken: TakeWriter | null;
  from: number;
  to: number;
}

/** A track that passes by from a file into another one, of which a part is held: as it was, and as it is to be. */
class PassingTrack {
  private readonly passage: TrackPassage;
  private readonly onWritten: (frame: number) => void;
  /** What lies before this frame went by; so many frames after it are held, in planes that may be longer. */
  private written = 0;
  private held = 0;
  private was = newStereo(0);
  private becomes = newStereo(0);

  constructor(passage: TrackPassage, onWritten: (frame: number) => void) {
    this.passage = passage;
    this.onWritten = onWritten;
  }

  /** Returns the track from one frame to another as it was, or as much as there is; what lies before is written. */
  async readTo(from: number, to: number): Promise<Stereo> {
    while (this.written < from) {
      const next = Math.min(from, this.written + STEM_RATE);
      await this.read(next);
      if (this.held === 0) break;
      await this.writeTo(next);
    }
    await this.read(to);
    const [start, end] = [from - this.written, Math.min(this.held, to - this.written)];
    return [this.was[0].subarray(start, end), this.was[1].subarray(start, end)];
  }

  /** Subtracts a sound from a frame on, fading where sections overlap. */
  takeOut(taken: Stereo, from: number, { fadesIn, fadesOut }: { fadesIn: boolean; fadesOut: boolean }): void {
    const overlap = OVERLAP_S * STEM_RATE;
    for (const side of [0, 1]) {
      const plane = this.becomes[side].subarray(from - this.written, this.held);
      const frames = Math.min(plane.length, taken[side].length);
      const sound = taken[side];
      const [fadedIn, fadesFrom] = [fadesIn ? overlap : 0, fadesOut ? sound.length - overlap : frames];
      const shareAt = (i: number) =>
        Math.min(1, fadesIn ? i / overlap : 1, fadesOut ? (sound.length - i) / overlap : 1);
      for (let i = 0; i < frames; i++)
        plane[i] -= i < fadedIn || i > fadesFrom ? sound[i] * shareAt(i) : sound[i];
    }
  }

  /** Lets go what is held up to a frame; what lies in the part is written. */
  async writeTo(frame: number): Promise<void> {
    const count = Math.min(frame - this.written, this.held);
    if (count <= 0) return;
    await this.write(count);
    for (const plane of [...this.was, ...this.becomes]) plane.copyWithin(0, count, this.held);
    this.held -= count;
    this.written += count;
    this.onWritten(this.written);
  }

  private async write(count: number): Promise<void> {
    const { from, to, writer, taken } = this.passage;
    const start = Math.max(0, from - this.written);
    const end = Math.min(count, to - this.written);
    if (start >= end) return;
    const part = (planes: Stereo): Stereo => [planes[0].subarray(start, end), planes[1].subarray(start, end)];
    const becomes = part(this.becomes);
    await writer.add([becomes], end - start);
    if (taken) await taken.add([difference(part(this.was), becomes, end - start)], end - start);
  }

  /** Writes all that is left. @returns where the part ends (frame) */
  async writeAll(): Promise<number> {
    for (;;) {
      if (this.written >= this.passage.to) return this.passage.to;
      await this.read(this.written + this.held + STEM_RATE);
      if (this.held === 0) return this.written;
      await this.writeTo(this.written + this.held);
    }
  }

  private async read(to: number): Promise<void> {
    const more = to - this.written - this.held;
    if (more <= 0) return;
    const [from, end] = [this.held, this.held + more];
    if (end > this.was[0].length) {
      this.was = longer(this.was, end);
      this.becomes = longer(this.becomes, end);
    }
    const read: Stereo = [this.was[0].subarray(from, end), this.was[1].subarray(from, end)];
    this.held += await this.passage.stem.read(read, more);
    for (const side of [0, 1]) this.becomes[side].set(read[side].subarray(0, this.held - from), from);
  }
}

function difference(one: Stereo, other: Stereo, count: number): Stereo {
  const side = (at: 0 | 1) => Float32Array.from({ length: count }, (_, i) => one[at][i] - other[at][i]);
  return [side(0), side(1)];
}

function longer(planes: Stereo, frames: number): Stereo {
  const longer = newStereo(frames);
  for (const side of [0, 1]) longer[side].set(planes[side]);
  return longer;
}

/** Reads a stretch of the sound alone, from a moment on (s). */
async function readAlone(path: string, reference: Reference, fromS: number, planes: Stereo): Promise<Stereo> {
  const file = await AudioFile.open(reference.path ?? path, { allowCut: true });
  const stem = new UntilDamage(Stem.of(file, reference.track ?? 0, { fromS }));
  try {
    const read = await stem.read(planes, planes[0].length);
    for (const plane of planes) plane.fill(0, read);
    return planes;
  } finally {
    await stem.close();
    file.close();
  }
}
