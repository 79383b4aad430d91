import { EncodedPacketSink, type InputTrack } from 'mediabunny';
import { openInput } from './openInput.ts';

/** A recording counts as whole where so much of what it promises is missing at most (s, and as a share of it). */
const MISSING_S = 2;
const MISSING_SHARE = 0.01;

/**
 * Tells where a recording breaks off, although it says that it goes on: it was cut off, or lost its end.
 * @param promisedS how long it says that it is (s)
 * @param readS how much of it could be read of the tracks that were looked at (s): they may end earlier than others
 * @returns where it breaks off (s); null where it is whole
 */
export async function breaksOffAt(path: string, promisedS: number, readS: number): Promise<number | null> {
  const wholeS = promisedS - Math.max(MISSING_S, MISSING_SHARE * promisedS);
  if (readS >= wholeS) return null;
  const endS = Math.max(readS, await lastOf(path));
  return endS >= wholeS ? null : endS;
}

/** Where the last packet of any track that is really there begins (s); 0 where there is none. */
async function lastOf(path: string): Promise<number> {
  let endS = 0;
  const input = await openInput(path).catch(() => null);
  try {
    for (const track of (await input?.getTracks()) ?? []) endS = Math.max(endS, await lastOfTrack(track));
  } catch {
    // What cannot be read is not there.
  } finally {
    input?.dispose();
  }
  return endS;
}

/** An index may name packets that are not there any more: the last that is named counts only where its bytes are. */
async function lastOfTrack(track: InputTrack): Promise<number> {
  const sink = new EncodedPacketSink(track);
  let endS = 0;
  try {
    let packet = await sink.getFirstPacket({ metadataOnly: true });
    while (packet) {
      endS = Math.max(endS, packet.timestamp);
      packet = await sink.getNextPacket(packet, { metadataOnly: true });
    }
    return (await sink.getPacket(endS)) ? endS : 0;
  } catch {
    return 0;
  }
}
