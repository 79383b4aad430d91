import { rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { AudioTrackInfo } from '../../core/check/recording.ts';
import type { ExtractedTrack } from '../../core/deliver/records.ts';
import { fileName } from '../fileName.ts';
import { AudioFile } from '../media/audioFile.ts';
import { STEM_RATE } from '../media/stem.ts';
import { losslessly, TakeWriter } from '../media/takeWriter.ts';
import { at48k } from './at48k.ts';
import { addWavNotes, type FileMark } from './wavChunks.ts';

/** Tracks of a recording (counted from zero) that are written into a folder, all of them so long (frames at 48 kHz). */
export interface ExtractRequest {
  path: string;
  folder: string;
  format: 'wav' | 'flac';
  tracks: number[];
  marks: FileMark[];
  frames: number;
}

/** A WAV that may become longer than this is written as RF64 (bytes). */
const MOST_WAV_BYTES = 3.9e9;
const MOST_BYTES_A_VALUE = 4;

/**
 * Writes tracks of a recording into files of their own: at 48 kHz, all from the start of the recording and of one length, so that they lie side
 * by side in an editor. WAV holds 24 bits, floats where the track has floats, and says when it begins and what was marked; FLAC holds 24 bits.
 * @throws {MediaError} when a track does not decode; {DiskFullError} when there is no room
 */
export async function extractTracks(
  { path, folder, format, tracks, marks, frames }: ExtractRequest,
  onProgress: (share: number) => void = () => {},
): Promise<ExtractedTrack[]> {
  const file = await AudioFile.open(path, { allowCut: true });
  const written: Extraction[] = [];
  try {
    for (const track of tracks) written.push(await Extraction.begin(file, track, folder, format, frames));
    for (;;) {
      const behind = written.filter(({ isEnded }) => !isEnded).sort((a, b) => a.frames - b.frames)[0];
      if (!behind) break;
      await behind.step();
      onProgress(Math.min(1, behind.frames / Math.max(1, frames)));
    }
    for (const one of written) await one.finish(marks);
    return written.map(({ track, name, file }) => ({ track, name, file, lengthS: frames / STEM_RATE }));
  } finally {
    await Promise.all(written.map((one) => one.drop()));
    file.close();
  }
}

function nameOf({ index, name }: AudioTrackInfo): string {
  return name || `Track ${index + 1}`;
}

/** What the file of a track is called. */
export function extractedName(track: AudioTrackInfo, format: 'wav' | 'flac'): string {
  return fileName(`${String(track.index + 1).padStart(2, '0')} ${nameOf(track)}.${format}`);
}

/** One track on its way into its file. */
class Extraction {
  readonly track: number;
  readonly name: string;
  /** The name of its file in the folder. */
  readonly file: string;
  frames = 0;
  isEnded = false;
  private readonly path: string;
  private readonly writer: TakeWriter;
  private readonly portions: AsyncGenerator<Float32Array[], void, undefined>;
  private readonly channels: number;
  private readonly isWav: boolean;
  private readonly most: number;
  private isFinished = false;

  private constructor(
    track: number,
    name: string,
    path: { folder: string; file: string },
    writer: TakeWriter,
    portions: AsyncGenerator<Float32Array[], void, undefined>,
    channels: number,
    most: number,
  ) {
    this.most = most;
    this.track = track;
    this.name = name;
    this.file = path.file;
    this.path = join(path.folder, path.file);
    this.isWav = path.file.endsWith('.wav');
    this.writer = writer;
    this.portions = portions;
    this.channels = channels;
  }

  static async begin(
    recording: AudioFile,
    track: number,
    folder: string,
    format: 'wav' | 'flac',
    frames: number,
  ): Promise<Extraction> {
    const { channels, codec } = recording.tracks[track];
    const name = nameOf(recording.tracks[track]);
    const file = extractedName(recording.tracks[track], format);
    const path = join(folder, file);
    const sheet = losslessly({ channels, codec }, name, format);
    const isLarge = frames * channels * MOST_BYTES_A_VALUE > MOST_WAV_BYTES;
    const writer = await TakeWriter.create(`${path}.part`, [sheet], { container: format, isLarge });
    return new Extraction(track, name, { folder, file }, writer, at48k(recording, track), channels, frames);
  }

  /** Reads and writes a portion. */
  async step(): Promise<void> {
    const next = await this.portions.next();
    if (next.done) this.isEnded = true;
    else await this.add(next.value, Math.min(next.value[0].length, this.most - this.frames));
    if (this.frames >= this.most) this.isEnded = true;
  }

  private async add(planes: Float32Array[], frames: number): Promise<void> {
    if (frames <= 0) return;
    await this.writer.add([planes], frames);
    this.frames += frames;
  }

  /** Fills it up with silence to its length, ends the file and gives it its name. */
  async finish(marks: FileMark[]): Promise<void> {
    while (this.frames < this.most) {
      const count = Math.min(STEM_RATE, this.most - this.frames);
      await this.add(
        Array.from({ length: this.channels }, () => new Float32Array(count)),
        count,
      );
    }
    await this.writer.finish();
    this.isFinished = true;
    const part = `${this.path}.part`;
    if (this.isWav)
      await addWavNotes(part, { description: this.name, timeReference: 0, sampleRate: STEM_RATE, marks });
    await rename(part, this.path);
  }

  /** Removes what is half written. */
  async drop(): Promise<void> {
    await this.portions.return();
    if (!this.isFinished) await this.writer.cancel().catch(() => {});
    await rm(`${this.path}.part`, { force: true });
  }
}
