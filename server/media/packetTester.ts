import type { InputTrack } from 'mediabunny';
import { isDecodedHere, type PacketDecoder } from './packetDecoder.ts';
import { codecOf } from './trackCodec.ts';
import { packetDecoderOf } from './trackDecoder.ts';

/** Tells which packets of a track of sound can be decoded: the others are left out where a recording is repaired. Close it when done. */
export class PacketTester {
  private readonly decoder: PacketDecoder;
  private hasDecoded = false;

  private constructor(decoder: PacketDecoder) {
    this.decoder = decoder;
  }

  /** Null where packets cannot be tested: of a picture, of plain PCM, of what is decoded elsewhere. */
  static async of(track: InputTrack): Promise<PacketTester | null> {
    if (!track.isAudioTrack() || !isDecodedHere((await codecOf(track)).codec)) return null;
    try {
      return new PacketTester(await packetDecoderOf(track));
    } catch {
      return null;
    }
  }

  /** Tells whether the next packet can be decoded. Where not even the first could, nothing is known of any, and all of them count. */
  takes(data: Uint8Array): boolean {
    try {
      this.decoder.decode(data);
      this.hasDecoded = true;
      return true;
    } catch {
      return !this.hasDecoded;
    }
  }

  close(): void {
    this.decoder.close();
  }
}
