import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, expect, test } from '@jest/globals';
import { noise } from '../../core/testing/tones.ts';
import { AudioFile } from '../media/audioFile.ts';
import { TakeWriter } from '../media/takeWriter.ts';
import { testFolder } from '../testing.ts';
import { joinParts } from './joinParts.ts';
import { OVERLAP_S, type Section, writeWithout } from './writeWithout.ts';

const RATE = 48_000;
const SECONDS = 14;
const SECTION_S = 4;
const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);

/** All samples of a file, in planes one behind the other. */
async function samplesOf(name: string, frames: number): Promise<Buffer> {
  const sound = await AudioFile.open(file(name));
  const planes = Array.from({ length: sound.tracks[0].channels }, () => new Float32Array(frames));
  let at = 0;
  for await (const portion of sound.planes(0)) {
    for (const [channel, plane] of portion.entries()) planes[channel].set(plane, at);
    at += portion[0].length;
  }
  sound.close();
  expect(at).toBe(frames);
  return Buffer.concat(planes.map((plane) => Buffer.from(plane.buffer)));
}

/** Sections that overlap, over all of the track. */
const leak = { reference: 'Music', track: 1, startS: 0, endS: SECONDS, levelDb: -10, offsetMs: 0 };
const SECTIONS = [0, 1, 2, 3].map((at): Section => {
  const from = at * (SECTION_S - OVERLAP_S) * RATE;
  return { from, to: from + SECTION_S * RATE, leak };
});

test.each([
  ['mono', 'aac'],
  ['stereo', 'pcm-s24'],
] as const)(
  'a track that is written in two parts is as in one go (%s, %s)',
  async (layout, codec) => {
    const frames = SECONDS * RATE;
    const music = [noise(1, frames), noise(2, frames)];
    const mix = music.map((plane, side) =>
      noise(3 + side, frames).map((value, i) => 0.2 * value + 0.5 * plane[i]),
    );
    const channels = layout === 'mono' ? 1 : 2;
    const tracks = ['Mix', 'Music'].map((name) => ({ name, codec, bitrateKbps: 160, layout }));
    await TakeWriter.write(file(`${layout}.mkv`), tracks, {}, (writer) =>
      writer.add([mix.slice(0, channels), music.slice(0, channels)], frames),
    );
    const reference = { name: 'Music', track: 1, path: null, forbiddenIn: [0] };
    const all = { path: file(`${layout}.mkv`), track: 0, reference };
    const split = SECTIONS[2].from;
    // The second part needs the end of the section before it as well.
    const [whole, early, late] = [
      { sections: SECTIONS, fromFrame: 0, toFrame: null },
      { sections: SECTIONS.slice(0, 2), fromFrame: 0, toFrame: split },
      { sections: SECTIONS.slice(1), fromFrame: split, toFrame: null },
    ].map((part, at) => ({
      ...all,
      ...part,
      outPath: file(`${layout}-${at}.wav`),
      takenPath: file(`${layout}-${at}-taken.wav`),
    }));
    const done = await writeWithout(whole, () => {});
    const [first, second] = [await writeWithout(early, () => {}), await writeWithout(late, () => {})];
    expect(first.frames).toBe(split);
    expect(first.frames + second.frames).toBe(done.frames);
    expect([...first.parts, ...second.parts.slice(1)]).toEqual(done.parts);
    expect(done.parts.every(({ took }) => took > 0)).toBe(true);

    const shares: number[] = [];
    for (const kind of ['', '-taken']) {
      const paths = [1, 2].map((part) => file(`${layout}-${part}${kind}.wav`));
      await joinParts({ paths, outPath: file(`${layout}${kind}.wav`) }, (share) => shares.push(share));
      const [joined, inOneGo] = [`${layout}${kind}.wav`, `${layout}-0${kind}.wav`];
      expect((await samplesOf(joined, done.frames)).equals(await samplesOf(inOneGo, done.frames))).toBe(true);
    }
    expect(Math.max(...shares)).toBeCloseTo(1, 2);
  },
  60_000,
);

test.each([
  ['mono', 'pcm-s24', false],
  ['mono', 'pcm-s24', true],
  ['stereo', 'pcm-f32', false],
  ['stereo', 'pcm-f32', true],
] as const)(
  'parts become the file that is written in one go, byte by byte (%s, %s, large: %s)',
  async (layout, codec, isLarge) => {
    const sounds = [12_345, 801, 4_800].map((frames, at) => [noise(at, frames), noise(at + 9, frames)]);
    const write = (name: string, parts: Float32Array[][]) =>
      TakeWriter.write(
        file(name),
        [{ name: 'Part', codec, layout }],
        { container: 'wav', isLarge },
        async (writer) => {
          for (const planes of parts) await writer.add([planes], planes[0].length);
        },
      );
    await write('one.wav', sounds);
    const paths = sounds.map((_, at) => file(`part-${at}.wav`));
    for (const [at, planes] of sounds.entries()) await write(`part-${at}.wav`, [planes]);
    await joinParts({ paths, outPath: file('joined.wav') });
    expect(readFileSync(file('joined.wav')).equals(readFileSync(file('one.wav')))).toBe(true);
  },
);

test('what is no WAV is refused', async () => {
  await TakeWriter.write(
    file('is.flac'),
    [{ name: 'Part', codec: 'flac', layout: 'mono' }],
    { container: 'flac' },
    (writer) => writer.add([[noise(1, 4800)]], 4800),
  );
  await expect(joinParts({ paths: [file('is.flac')], outPath: file('is.wav') })).rejects.toThrow(
    'no sound in it',
  );
});
