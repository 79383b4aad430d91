import { basename, extname } from 'node:path';
import { getSystemErrorName } from 'node:util';
import type { EncodedPacket } from 'mediabunny';
import {
  AV_DISPOSITION_COMMENT,
  AV_DISPOSITION_DEFAULT,
  AV_DISPOSITION_FORCED,
  AV_DISPOSITION_HEARING_IMPAIRED,
  AV_DISPOSITION_ORIGINAL,
  AV_DISPOSITION_VISUAL_IMPAIRED,
  AV_OPT_SEARCH_CHILDREN,
  AV_OPT_TYPE_STRING,
  type AVDisposition,
  AVERROR_INVALIDDATA,
  AVIO_FLAG_WRITE,
  Dictionary,
  FFmpegError,
  FormatContext,
  IOContext,
  Packet,
  Rational,
} from 'node-av';
import { describeTrack } from './codecParameters.ts';
import { type Container, canHold } from './containerCodecs.ts';
import { DecodeTimes, type Timed } from './decodeTimes.ts';
import { DiskFullError, orDiskFull, StorageError } from './diskFile.ts';
import { moveIndexToFront } from './indexInFront.ts';
import { MediaError } from './mediaError.ts';
import { movLanguage } from './movLanguages.ts';
import { type PacketFrames, packetFrames, ROUNDED_S } from './packetFrames.ts';
import type { NewTrack, PacketTime, PacketWriter } from './packetWriter.ts';

/** Pictures are timed in so many parts of a second, the clock of MPEG; sound in its own frames. */
const PICTURE_SCALE = 90_000;
/** Where their pace is known: every usual one is a whole number of these. */
const PACED_SCALE = 360_000;
/** The whole file is timed in so many parts of a second: to the frame of sound. */
const MOVIE_SCALE = 48_000;

const COMMON = { avoid_negative_ts: 'disabled', strict: 'experimental' };
const WITH_INDEX = { ...COMMON, movie_timescale: String(MOVIE_SCALE) };
const OPTIONS: Record<Container, Record<string, string>> = {
  mp4: WITH_INDEX,
  mov: WITH_INDEX,
  // Which tracks players choose is written as it is told.
  matroska: { ...COMMON, default_mode: 'passthrough' },
};

/** What is said of tracks, by the media library's words. */
const DISPOSITIONS: Partial<Record<keyof NewTrack['disposition'], AVDisposition>> = {
  default: AV_DISPOSITION_DEFAULT,
  forced: AV_DISPOSITION_FORCED,
  original: AV_DISPOSITION_ORIGINAL,
  commentary: AV_DISPOSITION_COMMENT,
  hearingImpaired: AV_DISPOSITION_HEARING_IMPAIRED,
  visuallyImpaired: AV_DISPOSITION_VISUAL_IMPAIRED,
};

/** One track on its way into the file. */
interface Track extends NewTrack {
  /** Its number in the file, once that has begun. */
  index: number;
  /** How many frames each of its packets holds, of sound. */
  framesOf: PacketFrames;
  /** Of its own units, so many are a second. */
  scale: number;
  /** How much of the file's own unit each of them is, once it has begun. */
  written: number;
  /** What the writer adds to each time, so that its decoder can give something before the sound (the file's own units, exactly). */
  padding: number;
  decodeTimes: DecodeTimes<Shown>;
  /** When the next packet of sound comes if nothing is missing (units). */
  next: number | null;
  /** When the first picture is shown (units). */
  begins: number | null;
  /** Until when pictures are shown, and those before the last key frame (units). */
  shownUntil: number;
  shownBeforeKey: number;
}

/** A packet, and how long it lasts (units of its track). */
interface Shown {
  packet: EncodedPacket;
  lasts: number;
}

/**
 * Writes MP4 and MOV, with their index in front, and Matroska, by FFmpeg's own writer. It keeps a few bytes for each packet until the index of MP4
 * is written, where the media library keeps objects, which took most of the time and of the memory in recordings of hours; and in Matroska it says
 * what a decoder of Opus gives before the sound, which the media library does not.
 */
export class ContainerWriter implements PacketWriter {
  readonly isExact: boolean;
  private readonly path: string;
  private readonly container: Container;
  private readonly context = new FormatContext();
  private readonly file = new IOContext();
  private readonly packet = new Packet();
  private readonly tracks: Track[] = [];
  private isOpen = false;

  constructor(path: string, container: Container) {
    this.path = path;
    this.isExact = container !== 'matroska';
    this.container = container;
  }

  addTrack(track: NewTrack): number {
    // FFmpeg would not say so: it ends the whole process.
    if (!canHold(this.container, track.codec, track.parameters !== null))
      throw new MediaError('unsupported', `${extname(this.name)} cannot hold ${track.codec}.`);
    this.tracks.push({
      ...track,
      index: -1,
      framesOf: (_packet, lasts) => lasts,
      scale: track.pace ? PACED_SCALE : PICTURE_SCALE,
      written: 1,
      padding: 0,
      decodeTimes: new DecodeTimes(),
      next: null,
      begins: null,
      shownUntil: Number.NEGATIVE_INFINITY,
      shownBeforeKey: Number.NEGATIVE_INFINITY,
    });
    return this.tracks.length - 1;
  }

  async start(): Promise<void> {
    // Said to be a file: a name with a colon would be taken for an address.
    const url = `file:${this.path}`;
    this.check(this.context.allocOutputContext2(null, this.container, url));
    this.check(this.file.open2Sync(url, AVIO_FLAG_WRITE));
    this.context.pb = this.file;
    this.packet.alloc();
    this.isOpen = true;
    for (const track of this.tracks) this.addStream(track);
    this.writeHead();
  }

  write(at: number, packet: EncodedPacket, { atS, durationS }: PacketTime): undefined {
    const track = this.tracks[at];
    const lasts = Math.max(1, Math.round((track.pace ?? durationS) * track.scale));
    if (track.kind === 'audio') {
      this.putSound(track, packet, Math.round(atS * track.scale), lasts);
      return;
    }
    const shownAt = evenly(track, atS);
    if (packet.type === 'key') track.shownBeforeKey = track.shownUntil;
    if (shownAt < track.shownBeforeKey) throw new Error('pictures run back behind a key frame');
    track.shownUntil = Math.max(track.shownUntil, shownAt);
    for (const timed of track.decodeTimes.add({ packet, lasts }, shownAt, lasts)) this.putTimed(track, timed);
  }

  /** The index is written for all tracks at the end. */
  close(): void {}

  async finish(onProgress?: (share: number) => void): Promise<void> {
    for (const track of this.tracks)
      for (const timed of track.decodeTimes.flush()) this.putTimed(track, timed);
    this.check(this.context.writeTrailerSync());
    this.check(this.file.error);
    this.end();
    // FFmpeg would do it as well, but without a word until all is done: of a long recording that takes minutes.
    if (this.isExact) await moveIndexToFront(this.path, onProgress);
  }

  async drop(): Promise<void> {
    this.end();
  }

  /** How the file is called once it is whole. */
  private get name(): string {
    return basename(this.path).replace(/\.part$/, '');
  }

  private end(): void {
    if (!this.isOpen) return;
    this.isOpen = false;
    // Before it is closed: what is freed later would look at it.
    this.context.pb = null;
    this.file.closepSync();
    this.context.freeContext();
    this.packet.free();
  }

  private writeHead(): void {
    // Not handed on with the head: the library would free them twice.
    for (const [name, value] of Object.entries(OPTIONS[this.container]))
      this.check(this.context.setOption(name, value, AV_OPT_TYPE_STRING, AV_OPT_SEARCH_CHILDREN));
    this.check(this.context.writeHeaderSync());
    // Matroska has one unit for all tracks.
    for (const track of this.tracks) {
      const { num, den } = this.context.streams[track.index].timeBase;
      track.written = den / num / track.scale;
      track.padding = this.isExact
        ? 0
        : this.context.streams[track.index].codecpar.initialPadding * track.written;
    }
  }

  /** @throws {DiskFullError}, {StorageError} or {MediaError} where the file itself cannot be written: that says nothing of what is copied */
  private check(result: number): void {
    if (result >= 0) return;
    const error = diskError(result);
    if (error) throw error;
    if (result === AVERROR_INVALIDDATA)
      throw new MediaError(
        'broken',
        `${this.name} cannot be written: nothing in the recording says how its picture or sound is decoded. Record or export it again.`,
      );
    throw new MediaError(
      'unsupported',
      `${this.name} cannot be written (${new FFmpegError(result).message}). Try another folder${this.isExact ? ', or .mkv' : ''}.`,
    );
  }

  private addStream(track: Track): void {
    const { config } = track;
    const stream = this.context.newStream(null);
    describeTrack(stream.codecpar, track, this.container);
    if ('numberOfChannels' in config) {
      track.scale = config.sampleRate;
      track.framesOf = packetFrames(track.codec, config, track.parameters?.frameSize);
    }
    stream.timeBase = new Rational(1, track.scale);
    if (track.pace) stream.avgFrameRate = rateOf(track.pace);
    stream.disposition = dispositionOf(track);
    const { name, languageCode } = track;
    // Editors and inspectors read the name in two places.
    const named = name ? { title: name, handler_name: name } : {};
    const language = this.container === 'mov' ? movLanguage(languageCode) : languageCode;
    stream.metadata = Dictionary.fromObject({ language, ...named });
    track.index = stream.index;
  }

  /** Sound follows without a gap where the times of the container were rounded only. */
  private putSound(track: Track, packet: EncodedPacket, shownAt: number, lasts: number): void {
    const rounded = ROUNDED_S * track.scale;
    const { next } = track;
    const frames = track.framesOf(packet.data, lasts);
    const isNext = next !== null && Math.abs(shownAt - next) <= rounded;
    if (next !== null && shownAt < next - rounded - frames) throw new Error('sound runs backwards');
    const begins = next === null ? shownAt : isNext ? next : Math.max(shownAt, next - frames + 1);
    track.next = begins + frames;
    this.putAt(track, packet, frames, begins, begins);
  }

  private putTimed(track: Track, { packet: { packet, lasts }, shownAt, decodedAt }: Timed<Shown>): void {
    this.putAt(track, packet, lasts, shownAt, decodedAt);
  }

  /** Hands a packet over, with its times (units of its track). */
  private putAt(
    { index, written: unit, padding }: Track,
    { data, type }: EncodedPacket,
    lasts: number,
    shownAt: number,
    decodedAt: number,
  ): void {
    // The writer adds the padding in whole units; together they are to be rounded once.
    const inFile = (time: number) => BigInt(Math.round(time * unit + padding) - Math.round(padding));
    const written = this.packet;
    // New data clear whatever was said of the packet before.
    written.data = Buffer.from(data.buffer, data.byteOffset, data.byteLength);
    written.streamIndex = index;
    written.pts = inFile(shownAt);
    written.dts = inFile(decodedAt);
    written.duration = BigInt(Math.round(lasts * unit));
    if (type === 'key') written.isKeyframe = true;
    const result = this.context.writeFrameSync(written);
    if (result < 0) throw diskError(result) ?? new FFmpegError(result);
  }
}

/** Pictures a second, by how long each lasts (s): whole, or 1000 in 1001 of it. */
function rateOf(pace: number): Rational {
  const whole = Math.round(1 / pace);
  return Math.abs(whole * pace - 1) < 1e-6
    ? new Rational(whole, 1)
    : new Rational(Math.round(1001 / pace), 1001);
}

function dispositionOf({ disposition }: NewTrack): AVDisposition {
  let all = 0;
  for (const [said, flag] of Object.entries(DISPOSITIONS))
    if (disposition[said as keyof typeof disposition]) all |= flag;
  return all as AVDisposition;
}

/** When a picture is shown (units of its track): where its time was rounded only, as evenly as it was recorded. */
function evenly(track: Track, atS: number): number {
  const { pace, scale } = track;
  const shownAt = Math.round(atS * scale);
  track.begins ??= shownAt;
  if (!pace) return shownAt;
  // A whole number of units each: no error adds up over hours.
  const lasts = Math.round(pace * scale);
  const even = track.begins + Math.round((shownAt - track.begins) / lasts) * lasts;
  return Math.abs(even - shownAt) <= ROUNDED_S * scale ? even : shownAt;
}

/** What is wrong with the disk, by a result of FFmpeg: the operating system's number, negative. Null where that is something else. */
function diskError(result: number): DiskFullError | StorageError | null {
  const error = orDiskFull({ code: getSystemErrorName(result) });
  return error instanceof DiskFullError || error instanceof StorageError ? error : null;
}
