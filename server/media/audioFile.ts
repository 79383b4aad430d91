import { stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { EncodedPacketSink, type Input, type InputAudioTrack } from 'mediabunny';
import type { AudioTrackInfo } from '../../core/check/recording.ts';
import { refuseUnreadable } from './foreign.ts';
import { InTime } from './inTime.ts';
import { MediaError } from './mediaError.ts';
import { refuseSeveral } from './oneRecording.ts';
import { beginningOf, openInput } from './openInput.ts';
import { packetsFrom } from './packets.ts';
import { codecOf, isReadable, soundOf } from './trackCodec.ts';
import { decoderOf } from './trackDecoder.ts';
import { shareOfWav } from './wavShare.ts';

/** A take is read by many readers at once, one a track, so each may keep only a little of the file. */
const CACHE_BYTES = 1 << 20;

/** What is read: sample rates in Hz, channels of one track, and how long a track may be (s). */
const LEAST_RATE_HZ = 4_000;
const MOST_RATE_HZ = 384_000;
const MOST_CHANNELS = 32;
const MOST_S = 48 * 3600;
/** Portions are handed on together until they are this long (frames), since each handing on takes time of its own. */
const BATCH_FRAMES = 8192;
/** Floating-point samples beyond this many times full scale (60 dB over it) are not sound. */
const MOST_SAMPLE = 1_000;

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
  /** When the first of all tracks begins (s, in the file's own time); null where that could not be read when it was opened. */
  private startS: number | null;

  private constructor(
    name: string,
    input: Input,
    inputTracks: InputAudioTrack[],
    tracks: AudioTrackInfo[],
    startS: number | null,
  ) {
    this.startS = startS;
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
    const name = basename(path);
    const info = await stat(path).catch(() => null);
    if (!info) throw new MediaError('unreadable', `There is no file ${name}. Check the path.`);
    if (!info.isFile())
      throw new MediaError('unreadable', `${name} is no file (a folder, a pipe or a device). Choose a file.`);
    if (info.size === 0) throw new MediaError('empty', `${name} is empty (0 bytes). Export it again.`);
    if (!options.allowCut) await refuseCutWav(path, name, info.size);
    await refuseSeveral(path);
    const input = await openInput(path, { maxCacheSize: CACHE_BYTES });
    try {
      const inputTracks = await input.getAudioTracks();
      if (inputTracks.length === 0) {
        await refuseUnreadable(path);
        throw new MediaError(
          'no-audio',
          `${name} has no audio track (or is cut off before it). Choose a file with sound.`,
        );
      }
      // In turn: how long a file is that does not say so is found by looking through it, which is done once for all of them then.
      const tracks: AudioTrackInfo[] = [];
      const startS = await beginningOf(input).catch(() => null);
      for (const [index, track] of inputTracks.entries())
        tracks.push(await trackInfo(track, index, startS ?? 0));
      for (const [at, track] of tracks.entries())
        if ((await codecOf(inputTracks[at])).isKnown) requireReadable(name, track);
      return new AudioFile(name, input, inputTracks, tracks, startS);
    } catch (error) {
      input.dispose();
      if (error instanceof MediaError) throw error;
      await refuseUnreadable(path);
      throw new MediaError(
        'unreadable',
        `${name} is not an audio file that Northfen can read. Export it as WAV, FLAC, MP3, AAC, Ogg, Matroska or MP4.`,
      );
    }
  }

  /**
   * Decodes a track and yields its sound in order, as planes of equal length, one a channel, at the track's own rate.
   * @param fromS begins there, as exactly as the file says where its packets belong
   * @throws {MediaError} when the sound is broken
   */
  async *planes(index: number, fromS = 0): AsyncGenerator<Float32Array[], void, undefined> {
    for await (const batch of this.portions(index, fromS)) yield* batch;
  }

  /** As {@link planes}, several portions at a time, which is faster. */
  async *portions(index: number, fromS = 0): AsyncGenerator<Float32Array[][], void, undefined> {
    const track = this.inputTracks[index];
    const { codec, sampleRate } = this.tracks[index];
    let frames = 0;
    try {
      if (!(await isReadable(track))) {
        throw new MediaError(
          'unreadable',
          `${this.name}: audio track ${index + 1} is coded as “${codec}”, which cannot be read here. Repair the recording to get a copy without that track, or export it as AAC, Opus, FLAC or WAV.`,
        );
      }
      // A file that was cut out of a longer one begins when its first track does; what is marked as before the start is left out.
      this.startS ??= await beginningOf(this.input);
      for await (const batch of this.batches(index, this.startS + fromS)) {
        for (const planes of batch) {
          if (codec.startsWith('pcm-f')) this.refuseAbsurd(planes, fromS + frames / sampleRate);
          frames += planes[0].length;
        }
        if (frames > MOST_S * sampleRate)
          throw new MediaError(
            'broken',
            `${this.name} does not end within ${MOST_S / 3600} hours. Cut it into parts.`,
          );
        yield batch;
      }
    } catch (error) {
      if (error instanceof MediaError) throw error;
      throw new MediaError(
        'broken',
        `${this.name} is damaged: it cannot be decoded beyond ${(fromS + frames / sampleRate).toFixed(1)} s. Export or copy it again, or repair it.`,
        { cause: error },
      );
    }
  }

  /** The portions of a track from a moment on (s, in the file's own time), some at a time: all that can be decoded, before it fails. */
  private async *batches(index: number, fromS: number): AsyncGenerator<Float32Array[][], void, undefined> {
    const track = this.inputTracks[index];
    const { codec, channels, sampleRate } = this.tracks[index];
    const timeline = new InTime(fromS, sampleRate);
    const decoder = await decoderOf(track, codec, channels, fromS);
    let batch: Float32Array[][] = [];
    let frames = 0;
    let failed: { error: unknown } | null = null;
    try {
      for (let decoded = await decoder.next(); decoded; decoded = await decoder.next()) {
        for (const portion of decoded) {
          for (const planes of timeline.place(portion)) {
            batch.push(planes);
            frames += planes[0].length;
            if (frames < BATCH_FRAMES) continue;
            yield batch;
            batch = [];
            frames = 0;
          }
        }
      }
    } catch (error) {
      failed = { error };
    } finally {
      await decoder.close();
    }
    yield batch;
    if (failed) throw failed.error;
  }

  private refuseAbsurd(planes: Float32Array[], startS: number): void {
    for (const plane of planes) {
      for (const value of plane) {
        if (Math.abs(value) <= MOST_SAMPLE) continue;
        throw new MediaError(
          'broken',
          `${this.name} holds floating-point samples that are not sound (${Number.isFinite(value) ? `over ${MOST_SAMPLE} times full scale` : 'not a number'}, near ${startS.toFixed(1)} s). Export it again as 24-bit WAV or FLAC.`,
        );
      }
    }
  }

  close(): void {
    this.input.dispose();
  }
}

/** Refuses what no recording of sound has, before anything is decoded. @throws {MediaError} */
function requireReadable(name: string, { index, sampleRate, channels }: AudioTrackInfo): void {
  const track = `${name}, audio track ${index + 1},`;
  if (!(sampleRate >= LEAST_RATE_HZ && sampleRate <= MOST_RATE_HZ))
    throw new MediaError(
      'unsupported',
      `${track} has a sample rate of ${sampleRate} Hz. Northfen reads 4 to 384 kHz: export it at 48 kHz.`,
    );
  if (!(channels >= 1 && channels <= MOST_CHANNELS))
    throw new MediaError(
      'unsupported',
      `${track} has ${channels} channels. Northfen reads up to ${MOST_CHANNELS}: export the ones you need.`,
    );
}

async function trackInfo(track: InputAudioTrack, index: number, startS: number): Promise<AudioTrackInfo> {
  const [name, { codec }, sound, durationS] = await Promise.all([
    track.getName(),
    codecOf(track),
    soundOf(track),
    durationOf(track, startS),
  ]);
  return { index, name: name || null, codec, ...sound, durationS };
}

/** A file that begins later than this in its own time (s) may count its length from there, or from zero. */
const LATE_S = 0.1;

/**
 * How long a track goes on after its file begins (s): the file's own word where it has one. To look for the last packet would keep the place of
 * every other in memory.
 */
async function durationOf(track: InputAudioTrack, startS: number): Promise<number> {
  const saidS = await track.getDurationFromMetadata();
  if (saidS !== null && startS < LATE_S) return saidS;
  const endS = await track.computeDuration().catch(() => lastEndOf(track));
  return Math.max(0, Math.max(endS, saidS ?? 0) - startS);
}

const METADATA = { metadataOnly: true };

/** Where the last packet ends that can be read (s): a file that was cut off may not be read from its end. */
async function lastEndOf(track: InputAudioTrack): Promise<number> {
  let endS = 0;
  try {
    const sink = new EncodedPacketSink(track);
    const first = await sink.getFirstPacket(METADATA);
    for await (const { timestamp, duration } of packetsFrom(sink, first, METADATA))
      endS = Math.max(endS, timestamp + duration);
  } catch (error) {
    if (endS === 0) throw error;
  }
  return endS;
}

/** Refuses a WAV that was cut off while it was written or copied. @throws {MediaError} */
async function refuseCutWav(path: string, name: string, size: number): Promise<void> {
  const share = await shareOfWav(path, size);
  if (share === null) return;
  throw new MediaError(
    'cut-off',
    `${name} is cut off: only ${Math.floor(share * 100)} % of what its header promises is there. Copy or export it again, or use just the part that is there.`,
  );
}
