import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { afterAll, expect, test } from '@jest/globals';
import { EncodedPacketSink } from 'mediabunny';
import { testFolder } from '../testing.ts';
import { openInput } from './openInput.ts';
import { packetFrames } from './packetFrames.ts';

const folder = testFolder();
afterAll(folder.remove);

/** 1.37 s: no coder's packets fit in it, so that the last one is shorter. */
const FRAMES = 65_760;

test.each([
  ['flac.mkv', 'flac'],
  ['small.flac', 'flac', '-frame_size', '200'],
  ['odd.flac', 'flac', '-frame_size', '3333'],
  ['pcm.mkv', 'pcm_s24le'],
  ['pcm.wav', 'pcm_f32le'],
])('%s: its packets hold all of its sound', async (name, codec, ...more) => {
  const path = join(folder.path, name);
  const sound = ['-f', 'lavfi', '-i', 'sine=sample_rate=48000:duration=1.37', '-ac', '2'];
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...sound, '-c:a', codec, ...more, path]);
  const input = await openInput(path);
  const track = await input.getPrimaryAudioTrack();
  const config = await track?.getDecoderConfig();
  if (!track || !config) throw new Error('no track');
  const framesOf = packetFrames((await track.getCodec()) as string, config);
  let frames = 0;
  for await (const { data } of new EncodedPacketSink(track).packets()) frames += framesOf(data, -1);
  input.dispose();
  expect(frames).toBe(FRAMES);
});

test('what cannot be told is as the container says', () => {
  const config = { codec: 'x', sampleRate: 48_000, numberOfChannels: 2 };
  expect(packetFrames('flac', config)(Uint8Array.of(1, 2, 3), 7)).toBe(7);
  expect(packetFrames('opus', config)(new Uint8Array(0), 960)).toBe(960);
  expect(packetFrames('vorbis', config)(Uint8Array.of(1), 128)).toBe(128);
  // MP3 holds 1,152 frames, and times are rounded to the millisecond; a packet that is said to last far longer is another.
  expect(packetFrames('mp3', config)(Uint8Array.of(1), 1150)).toBe(1152);
  expect(packetFrames('mp3', config)(Uint8Array.of(1), 576)).toBe(576);
});
