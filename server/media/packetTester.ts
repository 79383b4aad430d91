import type { InputTrack } from 'mediabunny';
import { bytesOf } from './bytesOf.ts';
import { isDecodedHere, PacketDecoder } from './packetDecoder.ts';

/** Tells which packets of a track of sound can be decoded: the others are left out where a recording is repaired. Close it when done. */
export class PacketTester {
  private readonly decoder: PacketDecoder;
  private hasDecoded = false;

  private constructor(decoder: PacketDecoder) {
    this.decoder = decoder;
  }

  /** Null where packets cannot be tested: of a picture, of plain PCM, of what is decoded elsewhere. */
  static async of(track: InputTrack, codec: string): Promise<PacketTester | null> {
    if (!track.isAudioTrack() || !isDecodedHere(codec)) return null;
    const [config, channels, sampleRate] = await Promise.all([
      track.getDecoderConfig(),
      track.getNumberOfChannels(),
      track.getSampleRate(),
    ]);
    const description = config?.description ? bytesOf(config.description) : null;
    try {
      return new PacketTester(new PacketDecoder({ codec, channels, sampleRate, description }));
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
