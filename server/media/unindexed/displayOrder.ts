import {
  AV_CODEC_ID_H264,
  AV_CODEC_ID_HEVC,
  AV_NOPTS_VALUE,
  AVMEDIA_TYPE_VIDEO,
  BitStreamFilter,
  BitStreamFilterContext,
  Packet,
  Rational,
} from 'node-av';
import type { UnitCodec } from '../../../core/unindexed/nalUnit.ts';

const CODEC_IDS = { avc: AV_CODEC_ID_H264, hevc: AV_CODEC_ID_HEVC };

/** Finds which picture is shown as which, from what the pictures themselves say of their order. */
export class DisplayOrder {
  /** For each picture in the order of decoding: how many places later it is shown; those are counted from an unknown one on. */
  readonly later: number[] = [];
  private readonly filter = new BitStreamFilterContext();
  private readonly out = new Packet();
  private count = 0;

  /** @param description what its decoder is told @throws {Error} where FFmpeg cannot order such pictures */
  constructor(codec: UnitCodec, description: Uint8Array) {
    const dts2pts = BitStreamFilter.getByName('dts2pts');
    if (!dts2pts) throw new Error('FFmpeg has no filter for the order of pictures');
    this.filter.alloc(dts2pts);
    const parameters = this.filter.inputCodecParameters;
    if (!parameters) throw new Error('the filter has no parameters');
    parameters.codecType = AVMEDIA_TYPE_VIDEO;
    parameters.codecId = CODEC_IDS[codec];
    parameters.extradata = Buffer.from(description);
    this.filter.inputTimeBase = new Rational(1, 1);
    if (this.filter.init() < 0) throw new Error('FFmpeg cannot order such pictures');
    this.out.alloc();
  }

  /** Takes the picture that is decoded next. */
  add(data: Buffer): void {
    const packet = new Packet();
    packet.alloc();
    packet.data = data;
    packet.dts = BigInt(this.count);
    packet.duration = 1n;
    this.count += 1;
    this.filter.sendPacketSync(packet);
    packet.free();
    this.receive();
  }

  /** Says that no more come. */
  finish(): void {
    this.filter.sendPacketSync(null);
    this.receive();
    this.fillIn();
  }

  close(): void {
    this.out.free();
    this.filter.free();
  }

  private receive(): void {
    while (this.filter.receivePacketSync(this.out) >= 0) {
      const { pts } = this.out;
      this.later.push(pts === AV_NOPTS_VALUE ? Number.NaN : Number(pts) - this.later.length);
      this.out.unref();
    }
  }

  /** Of the last pictures some wait for others that never came: they have the places that are left, in their order. */
  private fillIn(): void {
    const shown = new Set<number>();
    const without: number[] = [];
    this.later.forEach((later, at) => {
      if (Number.isNaN(later) || shown.has(at + later)) without.push(at);
      else shown.add(at + later);
    });
    let free = [...shown].reduce((least, place) => Math.min(least, place), this.later.length);
    for (const at of without) {
      while (shown.has(free)) free += 1;
      this.later[at] = free - at;
      shown.add(free);
    }
  }
}
