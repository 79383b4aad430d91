import { mkdir, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { fileName } from '../fileName.ts';
import { AudioFile } from '../media/audioFile.ts';
import { MediaError } from '../media/mediaError.ts';
import { STEM_RATE } from '../media/stem.ts';
import { losslessly, TakeWriter } from '../media/takeWriter.ts';
import { at48k } from './at48k.ts';
import { addWavNotes, type Mark } from './wavChunks.ts';

/** How tracks are written. */
export interface ExtractOptions {
  format?: 'wav' | 'flac';
  /** Which tracks, counted from zero; all when left out. */
  tracks?: number[];
  marks?: Mark[];
  onProgress?: (share: number) => void;
}

/** A track in a file of its own. */
export interface ExtractedTrack {
  /** Counted from zero. */
  track: number;
  name: string;
  file: string;
  lengthS: number;
}

/** A WAV that may become longer than this is written as RF64 (bytes). */
const MOST_WAV_BYTES = 3.9e9;
const MOST_BYTES_A_VALUE = 4;

/**
 * Writes tracks of a recording into files of their own: at 48 kHz, all from the start of the recording and of one length, so that they lie side
 * by side in an editor. WAV holds 24 bits, floats where the track has floats, and says when it begins and what was marked; FLAC holds 24 bits.
 * What is there already is not written over.
 * @throws {MediaError} when a track does not decode; {DiskFullError} when there is no room
 */
export async function extractTracks(
  path: string,
  folder: string,
  { format = 'wav', tracks: asked, marks = [], onProgress = () => {} }: ExtractOptions = {},
): Promise<ExtractedTrack[]> {
  const file = await AudioFile.open(path, { allowCut: true });
  const tracks = asked ?? file.tracks.map((_, track) => track);
  const missing = tracks.find((track) => file.tracks[track] === undefined);
  if (missing !== undefined) {
    file.close();
    throw new MediaError(
      'no-audio',
      `There is no audio track ${missing + 1}; the file has ${file.tracks.length}.`,
    );
  }
  await mkdir(folder, { recursive: true });
  const written: Extraction[] = [];
  try {
    for (const track of tracks) written.push(await Extraction.begin(file, track, folder, format));
    const lengthS = Math.max(0.001, ...tracks.map((track) => file.tracks[track].durationS));
    while (written.some(({ isEnded }) => !isEnded)) {
      const behind = written.filter(({ isEnded }) => !isEnded).sort((a, b) => a.frames - b.frames)[0];
      await behind.step();
      onProgress(Math.min(1, behind.frames / STEM_RATE / lengthS));
    }
    const frames = Math.max(...written.map((one) => one.frames));
    for (const one of written) await one.finish(frames, marks);
    return written.map(({ track, name, file }) => ({ track, name, file, lengthS: frames / STEM_RATE }));
  } finally {
    await Promise.all(written.map((one) => one.drop()));
    file.close();
  }
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
  private isFinished = false;

  private constructor(
    track: number,
    name: string,
    path: { folder: string; file: string },
    writer: TakeWriter,
    portions: AsyncGenerator<Float32Array[], void, undefined>,
    channels: number,
  ) {
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
  ): Promise<Extraction> {
    const { channels, codec, name: given, durationS } = recording.tracks[track];
    const name = given || `Track ${track + 1}`;
    const file = fileName(`${String(track + 1).padStart(2, '0')} ${name}.${format}`);
    const path = join(folder, file);
    const isThere = await stat(path).catch(() => null);
    if (isThere)
      throw new MediaError(
        'unsupported',
        `${file} is there already. Choose an empty folder, or move it away.`,
      );
    const sheet = losslessly({ channels, codec }, name, format);
    const isLarge = durationS * STEM_RATE * channels * MOST_BYTES_A_VALUE > MOST_WAV_BYTES;
    const writer = await TakeWriter.create(`${path}.part`, [sheet], { container: format, isLarge });
    return new Extraction(track, name, { folder, file }, writer, at48k(recording, track), channels);
  }

  /** Reads and writes a portion. */
  async step(): Promise<void> {
    const next = await this.portions.next();
    if (next.done) this.isEnded = true;
    else await this.add(next.value, next.value[0].length);
  }

  private async add(planes: Float32Array[], frames: number): Promise<void> {
    if (frames === 0) return;
    await this.writer.add([planes], frames);
    this.frames += frames;
  }

  /** Fills it up with silence to a length, ends the file and gives it its name. */
  async finish(frames: number, marks: Mark[]): Promise<void> {
    while (this.frames < frames) {
      const count = Math.min(STEM_RATE, frames - this.frames);
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
