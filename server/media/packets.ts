import type { EncodedPacket, EncodedPacketSink, PacketRetrievalOptions } from 'mediabunny';

/**
 * The packets of a track in turn, from one on. The media library's own way of handing them on reads ahead, and takes three times as long.
 * @param first null for none at all
 */
export async function* packetsFrom(
  sink: EncodedPacketSink,
  first: EncodedPacket | null,
  options?: PacketRetrievalOptions,
): AsyncGenerator<EncodedPacket, void, undefined> {
  for (let packet = first; packet; packet = await sink.getNextPacket(packet, options)) yield packet;
}
