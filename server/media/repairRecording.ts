import { rename, rm, stat } from 'node:fs/promises';
import { basename, extname, resolve } from 'node:path';
import {
  ALL_FORMATS,
  EncodedAudioPacketSource,
  type EncodedPacket,
  EncodedPacketSink,
  EncodedVideoPacketSource,
  FilePathSource,
  Input,
  type InputTrack,
  MkvOutputFormat,
  MovOutputFormat,
  Mp4OutputFormat,
  Output,
  WavOutputFormat,
} from 'mediabunny';
import { diskTarget } from './diskFile.ts';
import { endsAtShortRest } from './inputGuard.ts';
import { prepareMediaLibrary } from './library.ts';
import { MediaError } from './mediaError.ts';

/** What was saved of one track, and what was promised (s); null where nothing says how long it was to be. */
export interface RepairedTrack {
  kind: 'audio' | 'video';
  codec: string;
  name: string | null;
  packets: number;
  savedS: number;
  promisedS: number | null;
  /** Why it ends there; null where it ends by itself. */
  brokeOff: string | null;
}

export interface Repaired {
  tracks: RepairedTrack[];
  /** Tracks of which nothing could be saved, by what is wrong with each. */
  left: string[];
}

const FORMATS = {
  '.mkv': MkvOutputFormat,
  '.mp4': Mp4OutputFormat,
  '.mov': MovOutputFormat,
  '.wav': WavOutputFormat,
};

/**
 * Writes a recording anew, with an index, up to its last whole packet: packets are copied as they are, nothing is coded again. The
 * damaged file is left as it is.
 * @throws {MediaError} when nothing of it can be read, or the new file would lie over the old one
 */
export async function repairRecording(path: string, outPath: string): Promise<Repaired> {
  prepareMediaLibrary();
  const name = basename(path);
  const Format = FORMATS[extname(outPath).toLowerCase() as keyof typeof FORMATS];
  if (!Format)
    throw new MediaError(
      'unsupported',
      `${basename(outPath)} must end in ${Object.keys(FORMATS).join(', ')}: that says how it is written.`,
    );
  if (resolve(path) === resolve(outPath))
    throw new MediaError(
      'unsupported',
      `${name} would be written over itself. Choose another name, so that the damaged file stays.`,
    );
  const info = await stat(path).catch(() => null);
  if (!info?.isFile()) throw new MediaError('unreadable', `There is no file ${name}. Check the path.`);
  if (info.size === 0) throw new MediaError('empty', `${name} is empty (0 bytes); there is nothing to save.`);
  const input = endsAtShortRest(new Input({ source: new FilePathSource(path), formats: ALL_FORMATS }));
  const part = `${outPath}.part`;
  try {
    const tracks = await input.getTracks().catch(() => []);
    const readers = await Promise.all(tracks.map((track) => Reader.open(track)));
    const usable = readers.filter((reader) => reader !== null);
    if (usable.length === 0)
      throw new MediaError(
        'unreadable',
        `Nothing of ${name} can be read: it is no recording, or it ends before its first packet, or its index was never written and it cannot be read without one. (A recorder that writes MKV loses less.)`,
      );
    const output = new Output({ format: new Format(), target: await diskTarget(part) });
    for (const reader of usable) reader.addTo(output);
    await output.start();
    for (;;) {
      const next = usable
        .filter(({ packet }) => packet !== null)
        .sort((a, b) => (a.packet?.timestamp ?? 0) - (b.packet?.timestamp ?? 0))[0];
      if (!next) break;
      await next.copy();
    }
    await output.finalize();
    await rename(part, outPath);
    return {
      tracks: usable.map((reader) => reader.result()),
      left: tracks.flatMap((track, at) =>
        readers[at] ? [] : [`${track.type} track ${track.number}: its sound or picture cannot be read`],
      ),
    };
  } finally {
    input.dispose();
    await rm(part, { force: true });
  }
}

/** Reads the packets of one track until they end or break off. */
class Reader {
  packet: EncodedPacket | null = null;
  private readonly track: InputTrack;
  private readonly sink: EncodedPacketSink;
  private readonly codec: string;
  private readonly name: string | null;
  private readonly promisedS: number | null;
  private source: EncodedAudioPacketSource | EncodedVideoPacketSource | null = null;
  private packets = 0;
  private endS = 0;
  private brokeOff: string | null = null;

  private constructor(track: InputTrack, codec: string, name: string | null, promisedS: number | null) {
    this.track = track;
    this.sink = new EncodedPacketSink(track);
    this.codec = codec;
    this.name = name;
    this.promisedS = promisedS;
  }

  /** Null for a track of which not even the first packet can be read. */
  static async open(track: InputTrack): Promise<Reader | null> {
    try {
      const codec = await track.getCodec();
      if (codec === null || (!track.isAudioTrack() && !track.isVideoTrack())) return null;
      const reader = new Reader(
        track,
        codec,
        (await track.getName()) || null,
        await track.getDurationFromMetadata().catch(() => null),
      );
      reader.packet = await reader.sink.getFirstPacket();
      return reader.packet ? reader : null;
    } catch {
      return null;
    }
  }

  addTo(output: Output): void {
    const name = this.name ?? undefined;
    if (this.track.isAudioTrack()) {
      this.source = new EncodedAudioPacketSource(this.codec as never);
      output.addAudioTrack(this.source, { name });
    } else {
      this.source = new EncodedVideoPacketSource(this.codec as never);
      output.addVideoTrack(this.source, { name });
    }
  }

  /** Copies the packet that is next, and reads on. */
  async copy(): Promise<void> {
    const { packet, source } = this;
    if (!packet || !source) return;
    const decoderConfig = this.packets === 0 ? await this.config() : undefined;
    await source.add(packet, decoderConfig ? ({ decoderConfig } as never) : undefined);
    this.packets += 1;
    this.endS = Math.max(this.endS, packet.timestamp + packet.duration);
    try {
      this.packet = await this.sink.getNextPacket(packet);
    } catch (error) {
      this.packet = null;
      this.brokeOff = error instanceof Error ? error.message : 'it cannot be read on';
    }
    if (!this.packet) source.close();
  }

  result(): RepairedTrack {
    const { codec, name, packets, promisedS, brokeOff } = this;
    const kind = this.track.isAudioTrack() ? 'audio' : 'video';
    return { kind, codec, name, packets, savedS: this.endS, promisedS, brokeOff };
  }

  private config() {
    return this.track.isAudioTrack()
      ? this.track.getDecoderConfig()
      : this.track.isVideoTrack()
        ? this.track.getDecoderConfig()
        : null;
  }
}
