import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import type { Stereo } from '../core/audio/planes.ts';
import { gameSound } from '../core/demo/game.ts';
import { recordSound } from '../core/demo/records.ts';
import { median } from '../core/median.ts';
import { TakeWriter } from '../server/media/takeWriter.ts';
import { took } from './timing.ts';

const RATE = 48_000;
const RUNS = 3;
const SECONDS = 600;
const TRACKS = 6;
const RECORDS = 24;
const RECORD_S = 120;

/**
 * Times checks from files to files, by the command line: four tracks of a recording that must not be in any other of its six (AAC), and a
 * library of records of which one is in it. Beside each, ffmpeg decodes the same files. Yields a line for each.
 */
export async function* timeChecks(folder: string): AsyncGenerator<string> {
  const recording = join(folder, 'evening.mkv');
  const records = await writeRecords(join(folder, 'records'));
  await writeRecording(recording);
  const forbidden = ['2', '3', '4', '5'].flatMap((track) => ['--forbid', track]);
  const everywhere = Array.from({ length: TRACKS }, (_, track) => ['--in', `${track + 1}`]).flat();
  yield await timeCheck(
    `checking four references against six tracks of ${SECONDS / 60} minutes`,
    [recording, ...forbidden, ...everywhere],
    [recording],
    '(bound 60 times real time)',
  );
  yield await timeCheck(
    `looking for ${RECORDS} records of ${RECORD_S / 60} minutes in one track of ${SECONDS / 60} minutes`,
    [recording, ...records.flatMap((path) => ['--reference', path]), '--in', '1'],
    [recording, ...records],
    '',
  );
}

async function timeCheck(what: string, checked: string[], decoded: string[], bound: string): Promise<string> {
  const ours: number[] = [];
  const theirs: number[] = [];
  for (let run = 0; run < RUNS; run++) {
    ours.push((await took(process.execPath, ['bin/northfen.mjs', 'verify', ...checked], [0, 3])).seconds);
    let decodingS = 0;
    for (const path of decoded)
      decodingS += (await took('ffmpeg', ['-v', 'error', '-i', path, '-map', '0:a', '-f', 'null', '-']))
        .seconds;
    theirs.push(decodingS);
  }
  const ratio = median(theirs.map((seconds, run) => seconds / ours[run]));
  return `${what}: ${(SECONDS / median(ours)).toFixed(0)} times real time ${bound}; ffmpeg decodes the same files in ${ratio.toFixed(2)} of that time`;
}

async function writeRecords(folder: string): Promise<string[]> {
  mkdirSync(folder);
  const paths: string[] = [];
  for (let index = 0; index < RECORDS; index++) {
    const path = join(folder, `record-${index}.flac`);
    const { left, right } = recordSound(100 + index, 0.5 + index / 100, RECORD_S);
    const writer = await TakeWriter.create(path, [{ name: 'Record', codec: 'flac', layout: 'stereo' }], {
      container: 'flac',
    });
    await writer.add([[left, right]], left.length);
    await writer.finish();
    paths.push(path);
  }
  return paths;
}

/** Six tracks: a mix of the game and the first of the records (20 dB down), the game, three more records, and silence. */
async function writeRecording(path: string): Promise<void> {
  const game = gameSound();
  const tunes = [0, 1, 2, 3].map((index) => recordSound(100 + index, 0.5 + index / 100, RECORD_S));
  const at = ({ left, right }: { left: Float32Array; right: Float32Array }, second: number): Stereo => {
    const from = (second * RATE) % (Math.floor(left.length / RATE) * RATE);
    return [left.subarray(from, from + RATE), right.subarray(from, from + RATE)];
  };
  const names = ['Mix', 'Game', 'One', 'Two', 'Three', 'Spare'];
  const writer = await TakeWriter.create(
    path,
    names.map((name) => ({ name, codec: 'aac', bitrateKbps: 160, layout: 'stereo' })),
  );
  const silent: Stereo = [new Float32Array(RATE), new Float32Array(RATE)];
  for (let second = 0; second < SECONDS; second++) {
    const [heard, played] = [at(game, second), at(tunes[0], second)];
    const mix = heard.map((plane, side) => plane.map((value, i) => value + 0.1 * played[side][i]));
    const alone = tunes.slice(1).map((tune) => at(tune, second));
    await writer.add([[mix[0], mix[1]], heard, ...alone, silent], RATE);
  }
  await writer.finish();
}
