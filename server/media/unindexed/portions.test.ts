import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import {
  EncodedAudioPacketSource,
  type EncodedPacket,
  EncodedPacketSink,
  EncodedVideoPacketSource,
  FilePathTarget,
  Mp4OutputFormat,
  Output,
} from 'mediabunny';
import { testFolder } from '../../testing.ts';
import { openInput } from '../openInput.ts';
import { repairRecording } from '../repairRecording.ts';
import { cut, H264, mediaIn, packetsOf, record } from './testing.ts';
import { readWhole } from './wholeRecording.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);

/** Copies an MP4 with the media library, which lays each track in portions of half a second. */
async function inPortions(from: string, to: string): Promise<void> {
  const input = await openInput(from);
  const output = new Output({
    format: new Mp4OutputFormat({ fastStart: false }),
    target: new FilePathTarget(to),
  });
  const copies: { packet: EncodedPacket | null; next: () => Promise<EncodedPacket | null> }[] = [];
  for (const track of await input.getTracks()) {
    const sink = new EncodedPacketSink(track);
    const copy = {
      packet: await sink.getFirstPacket(),
      next: async (): Promise<EncodedPacket | null> => null,
    };
    const goOn = (packet: EncodedPacket) => sink.getNextPacket(packet);
    if (track.isVideoTrack()) {
      const source = new EncodedVideoPacketSource('avc');
      const decoderConfig = (await track.getDecoderConfig()) ?? undefined;
      output.addVideoTrack(source);
      copy.next = async () => {
        if (!copy.packet) return null;
        await source.add(copy.packet, { decoderConfig });
        return goOn(copy.packet);
      };
    } else if (track.isAudioTrack()) {
      const source = new EncodedAudioPacketSource('aac');
      const decoderConfig = (await track.getDecoderConfig()) ?? undefined;
      output.addAudioTrack(source);
      copy.next = async () => {
        if (!copy.packet) return null;
        await source.add(copy.packet, { decoderConfig });
        return goOn(copy.packet);
      };
    }
    copies.push(copy);
  }
  await output.start();
  for (;;) {
    const waiting = copies.filter(({ packet }) => packet !== null);
    if (waiting.length === 0) break;
    const startS = (one: (typeof copies)[number]) => one.packet?.timestamp ?? 0;
    const first = waiting.reduce((one, other) => (startS(other) < startS(one) ? other : one));
    first.packet = await first.next();
  }
  await output.finalize();
  input.dispose();
}

/** Cuts the media of a file, and lays them as another program would that leaves nothing before the first packet. */
async function cutFlush(from: string, to: string, share: number): Promise<void> {
  const bytes = readFileSync(from);
  const { at, end } = mediaIn(bytes);
  const { leadBytes } = await readWhole(from);
  const media = bytes.subarray(at + 8 + leadBytes, at + Math.floor((end - at) * share));
  const head = Buffer.from(bytes.subarray(0, at + 8));
  head.writeUInt32BE(0, at);
  writeFileSync(to, Buffer.concat([head, media]));
}

const by = (damaged: string, whole: string) =>
  repairRecording(file(damaged), file(`new-${damaged}`), () => {}, file(whole));

beforeAll(async () => {
  const kind = { name: 'avc.mp4', options: [...H264, '-bf', '0'] };
  record(file('whole.mp4'), kind, 6, 1);
  record(file('evening.mp4'), kind, 12, 2);
  await inPortions(file('whole.mp4'), file('whole-portions.mp4'));
  await inPortions(file('evening.mp4'), file('evening-portions.mp4'));
});

test('a recording whose tracks lie in portions is repaired by another that is laid so', async () => {
  cut(file('evening-portions.mp4'), file('portions.mp4'), 0.7);
  await by('portions.mp4', 'whole-portions.mp4');
  const wanted = packetsOf(file('evening-portions.mp4'));
  const found = packetsOf(file('new-portions.mp4'));
  expect(found).toHaveLength(4);
  found.forEach((packets, track) => {
    expect(packets.length).toBeGreaterThan(0.5 * wanted[track].length);
    expect(packets.map(({ data_hash }) => data_hash)).toEqual(
      wanted[track].slice(0, packets.length).map(({ data_hash }) => data_hash),
    );
  });
});

test('one that is laid otherwise cannot help: packets of like tracks would change places', async () => {
  await cutFlush(file('evening-portions.mp4'), file('crashed-portions.mp4'), 0.7);
  await cutFlush(file('evening.mp4'), file('crashed.mp4'), 0.7);
  await expect(by('crashed-portions.mp4', 'whole.mp4')).rejects.toThrow('in other portions');
  // The other way round, the first packets are missed: that one begins behind a gap.
  const bytes = readFileSync(file('crashed.mp4'));
  const { at } = mediaIn(readFileSync(file('evening.mp4')));
  const gap = Buffer.alloc((await readWhole(file('whole-portions.mp4'))).leadBytes);
  writeFileSync(file('crashed.mp4'), Buffer.concat([bytes.subarray(0, at + 8), gap, bytes.subarray(at + 8)]));
  await expect(by('crashed.mp4', 'whole-portions.mp4')).rejects.toThrow('in other portions');
});
