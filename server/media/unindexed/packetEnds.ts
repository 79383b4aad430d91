import { aacPacketBytes } from '../../../core/unindexed/aacPacket.ts';
import { UNIT_HEAD_BYTES, type Unit, unitOf } from '../../../core/unindexed/nalUnit.ts';
import type { FileBytes } from '../fileBytes.ts';
import type { PacketLayout } from './wholeRecording.ts';

/** No packet of sound has more: 768 bytes for each of eight channels, and what fills it up. */
const MOST_SOUND_BYTES = 1 << 14;
/** Units of a picture are looked for up to so much, and up to so many times the largest of the whole recording. */
const MOST_UNIT_BYTES = 1 << 23;
const TIMES_LARGEST = 4;

/** Where a packet ends. */
export interface PacketEnd {
  endsAt: number;
  /** Whether decoders may begin with it. */
  isKey: boolean;
}

/** Finds where packets of one kind end in the media of a file. */
export class PacketEnds {
  private readonly bytes: FileBytes;
  private readonly layout: PacketLayout;
  private readonly mediaEnd: number;
  private readonly mostUnitBytes: number;

  /**
   * @param mediaEnd where the media end, or the file
   * @param largest the largest packet of this kind in the whole recording (bytes)
   */
  constructor(bytes: FileBytes, layout: PacketLayout, mediaEnd: number, largest: number) {
    this.bytes = bytes;
    this.layout = layout;
    this.mediaEnd = mediaEnd;
    this.mostUnitBytes = Math.max(MOST_UNIT_BYTES, TIMES_LARGEST * largest);
  }

  /** @returns null where no whole packet of this kind begins there */
  async of(at: number): Promise<PacketEnd | null> {
    const { layout } = this;
    if (layout.kind === 'picture') return this.ofPicture(at, layout);
    const bytes = await this.bytes.at(at, Math.min(MOST_SOUND_BYTES, this.mediaEnd - at));
    const length = aacPacketBytes(bytes, 0, layout);
    return length === null ? null : { endsAt: at + length, isKey: true };
  }

  private async ofPicture(
    from: number,
    layout: PacketLayout & { kind: 'picture' },
  ): Promise<PacketEnd | null> {
    let [hasSlice, isKey] = [false, false];
    for (let at = from; ; ) {
      const found = await this.unitAt(at, layout);
      const isNext = found === null || (hasSlice && found.unit.begins);
      if (isNext) return hasSlice ? { endsAt: at, isKey } : null;
      const { unit, endsAt } = found;
      // A picture does not begin with what comes behind its slices, or with another slice than its first.
      if (!hasSlice && (unit.role === 'behind' || (unit.role === 'slice' && !unit.begins))) return null;
      if (unit.role === 'slice') {
        hasSlice = true;
        isKey ||= unit.isKey;
      }
      at = endsAt;
    }
  }

  private async unitAt(
    at: number,
    { codec, lengthBytes }: PacketLayout & { kind: 'picture' },
  ): Promise<{ unit: Unit; endsAt: number } | null> {
    const head = await this.bytes.at(at, lengthBytes + UNIT_HEAD_BYTES);
    if (head.length <= lengthBytes) return null;
    const length = head.readUIntBE(0, lengthBytes);
    const endsAt = at + lengthBytes + length;
    if (length === 0 || length > this.mostUnitBytes || endsAt > this.mediaEnd) return null;
    const unit = unitOf(codec, head.subarray(lengthBytes, lengthBytes + length));
    return unit && { unit, endsAt };
  }
}
