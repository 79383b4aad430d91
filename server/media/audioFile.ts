import { open, stat } from 'node:fs/promises';
import { basename } from 'node:path';
import {
  ALL_FORMATS,
  type AudioSample,
  AudioSampleSink,
  EncodedPacketSink,
  FilePathSource,
  Input,
  type InputAudioTrack,
} from 'mediabunny';
import { prepareMediaLibrary } from './library.ts';
import { MediaError } from './mediaError.ts';
import { isPlainPcm, unpackPcm } from './pcm.ts';

/** One audio track of a file. `index` counts from zero over the audio tracks alone. */
export interface AudioTrackInfo {
  index: number;
  name: string | null;
  codec: string;
  channels: number;
  sampleRate: number;
  durationS: number;
}

/** A take is read by many readers at once, one a track, so each may keep only a little of the file. */
const CACHE_BYTES = 1 << 20;

/** Options for opening: `allowCut` takes a WAV that holds less than its header promises. */
export interface OpenOptions {
  allowCut?: boolean;
}

/**
 * An audio file (or the audio of a video) in any container that the media library reads.
 *
 * @example
 * const file = await AudioFile.open('take.mkv');
 * for await (const planes of file.planes(0)) measure(planes);
 * file.close();
 */
export class AudioFile {
  readonly tracks: AudioTrackInfo[];
  private readonly input: Input;
  private readonly inputTracks: InputAudioTrack[];
  private readonly name: string;

  private constructor(name: string, input: Input, inputTracks: InputAudioTrack[], tracks: AudioTrackInfo[]) {
    this.name = name;
    this.input = input;
    this.inputTracks = inputTracks;
    this.tracks = tracks;
  }

  /**
   * Opens a file and reads what tracks it has; sound is not decoded yet.
   * @throws {MediaError} when it is empty, not audio, cut off, or has no audio track
   */
  static async open(path: string, options: OpenOptions = {}): Promise<AudioFile> {
    prepareMediaLibrary();
    const name = basename(path);
    const info = await stat(path).catch(() => null);
    if (!info?.isFile()) throw new MediaError('unreadable', `There is no file ${name}. Check the path.`);
    if (info.size === 0) throw new MediaError('empty', `${name} is empty (0 bytes). Export it again.`);
    if (!options.allowCut) await refuseCutWav(path, name, info.size);
    const input = new Input({
      source: new FilePathSource(path, { maxCacheSize: CACHE_BYTES }),
      formats: ALL_FORMATS,
    });
    try {
      const inputTracks = await input.getAudioTracks();
      if (inputTracks.length === 0) {
        throw new MediaError(
          'no-audio',
          `${name} has no audio track (or is cut off before it). Choose a file with sound.`,
        );
      }
      const tracks = await Promise.all(inputTracks.map(trackInfo));
      return new AudioFile(name, input, inputTracks, tracks);
    } catch (error) {
      input.dispose();
      if (error instanceof MediaError) throw error;
      throw new MediaError(
        'unreadable',
        `${name} is not an audio file that Northfen can read. Export it as WAV, FLAC, MP3, AAC, Ogg, Matroska or MP4.`,
      );
    }
  }

  /**
   * Decodes a track and yields its sound in order, as planes of equal length, one a channel, at the track's own rate.
   * @throws {MediaError} when the sound is broken
   */
  async *planes(index: number): AsyncGenerator<Float32Array[], void, undefined> {
    const track = this.inputTracks[index];
    try {
      if (!(await track.canDecode())) {
        throw new MediaError(
          'unreadable',
          `${this.name}: the codec “${this.tracks[index].codec}” cannot be decoded here. Export it as WAV or FLAC.`,
        );
      }
      const { codec, channels } = this.tracks[index];
      if (isPlainPcm(codec)) {
        for await (const packet of new EncodedPacketSink(track).packets())
          yield unpackPcm(codec, packet.data, channels);
        return;
      }
      for await (const sample of new AudioSampleSink(track).samples()) {
        const planes = unpackSample(sample);
        sample.close();
        yield planes;
      }
    } catch (error) {
      if (error instanceof MediaError) throw error;
      throw new MediaError(
        'broken',
        `${this.name} is damaged and stops decoding (${messageOf(error)}). Export or copy it again.`,
      );
    }
  }

  close(): void {
    this.input.dispose();
  }
}

/** Interleaved whole numbers are unpacked here, all channels at once; the library does it value by value. */
function unpackSample(sample: AudioSample): Float32Array[] {
  const { format, numberOfChannels: channels, numberOfFrames: frames } = sample;
  if (format !== 's16' && format !== 's32') {
    return Array.from({ length: channels }, (_, planeIndex) => {
      const plane = new Float32Array(frames);
      sample.copyTo(plane, { planeIndex, format: 'f32-planar' });
      return plane;
    });
  }
  const bytes = new Uint8Array(frames * channels * (format === 's16' ? 2 : 4));
  sample.copyTo(bytes, { planeIndex: 0, format });
  return unpackPcm(`pcm-${format}`, bytes, channels);
}

async function trackInfo(track: InputAudioTrack, index: number): Promise<AudioTrackInfo> {
  const [name, codec, channels, sampleRate, durationS] = await Promise.all([
    track.getName(),
    track.getCodec(),
    track.getNumberOfChannels(),
    track.getSampleRate(),
    durationOf(track),
  ]);
  return { index, name: name || null, codec: codec ?? 'unknown', channels, sampleRate, durationS };
}

/** The file's own word where it has one: to look for the last packet would keep the place of every other in memory. */
async function durationOf(track: InputAudioTrack): Promise<number> {
  return (await track.getDurationFromMetadata()) ?? track.computeDuration();
}

/** A RIFF header says how long the file is to be; a shorter one was cut off while it was written or copied. */
async function refuseCutWav(path: string, name: string, size: number): Promise<void> {
  const handle = await open(path);
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(12), 0, 12, 0);
    const promised = buffer.readUInt32LE(4) + 8;
    const isWav =
      bytesRead === 12 &&
      buffer.toString('latin1', 0, 4) === 'RIFF' &&
      buffer.toString('latin1', 8, 12) === 'WAVE';
    if (!isWav || promised <= size + 1 || promised > 0xffffff00) return;
    const share = Math.floor((size / promised) * 100);
    throw new MediaError(
      'cut-off',
      `${name} is cut off: only ${share} % of what its header promises is there. Copy or export it again, or use just the part that is there.`,
    );
  } finally {
    await handle.close();
  }
}

function messageOf(error: unknown): string {
  return (error instanceof Error ? error.message : String(error)).split('\n')[0];
}
