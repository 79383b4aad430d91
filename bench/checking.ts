import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import type { Stereo } from '../core/audio/planes.ts';
import { gameSound } from '../core/demo/game.ts';
import { recordSound } from '../core/demo/records.ts';
import { median } from '../core/median.ts';
import { TakeWriter } from '../server/media/takeWriter.ts';
import { LIBRARY, PIECE_S, PIECES, repeated, took } from './timing.ts';

const RATE = 48_000;
const RUNS = 3;
const TRACKS = 6;

/**
 * Times checks from files to files, by the command line: four tracks of a recording that must not be in any other of its six (AAC), and a
 * library of records of which one is in it. Beside each, ffmpeg decodes the same files. Yields a line for each.
 */
export async function* timeChecks(folder: string): AsyncGenerator<string> {
  const [piece, evening, hour] = ['piece.mkv', 'evening.mkv', 'hour.mkv'].map((name) => join(folder, name));
  const records = await writeRecords(join(folder, 'records'));
  await writeRecording(piece);
  await repeated(piece, evening, PIECES);
  await repeated(piece, hour, LIBRARY.pieces);
  const forbidden = ['2', '3', '4', '5'].flatMap((track) => ['--forbid', track]);
  const everywhere = Array.from({ length: TRACKS }, (_, track) => ['--in', `${track + 1}`]).flat();
  yield await timeCheck(
    `checking four references against six tracks of ${(PIECES * PIECE_S) / 60} minutes`,
    { seconds: PIECES * PIECE_S, checked: [evening, ...forbidden, ...everywhere], decoded: [evening] },
    '(bound 60 times real time)',
  );
  const library = records.flatMap((path) => ['--reference', path]);
  yield await timeCheck(
    `looking for ${records.length} records of ${LIBRARY.recordS / 60} minutes in one track of ${(LIBRARY.pieces * PIECE_S) / 60} minutes`,
    {
      seconds: LIBRARY.pieces * PIECE_S,
      checked: [hour, ...library, '--in', '1'],
      decoded: [hour, ...records],
    },
    '(bound, for 300 records and an hour: 30)',
  );
}

/** A check: how long its recording is (s), what the command is told, and which files it has to decode. */
interface TimedCheck {
  seconds: number;
  checked: string[];
  decoded: string[];
}

async function timeCheck(
  what: string,
  { seconds, checked, decoded }: TimedCheck,
  bound: string,
): Promise<string> {
  const ours: number[] = [];
  const theirs: number[] = [];
  let mostMb = 0;
  for (let run = 0; run < RUNS; run++) {
    const found = await took(process.execPath, ['bin/northfen.mjs', 'verify', ...checked], [0, 3]);
    ours.push(found.seconds);
    mostMb = Math.max(mostMb, found.mostMb);
    let decodingS = 0;
    for (const path of decoded)
      decodingS += (await took('ffmpeg', ['-v', 'error', '-i', path, '-map', '0:a', '-f', 'null', '-']))
        .seconds;
    theirs.push(decodingS);
  }
  const ratio = median(theirs.map((time, run) => time / ours[run]));
  return `${what}: ${(seconds / median(ours)).toFixed(0)} times real time ${bound}, ${mostMb.toFixed(0)} MB at most (bound 700); ffmpeg decodes the same files in ${ratio.toFixed(2)} of that time`;
}

async function writeRecords(folder: string): Promise<string[]> {
  mkdirSync(folder);
  const paths: string[] = [];
  for (let index = 0; index < LIBRARY.records; index++) {
    const path = join(folder, `record-${index}.flac`);
    const { left, right } = recordSound(100 + index, 0.5 + index / 100, LIBRARY.recordS);
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
  const tunes = [0, 1, 2, 3].map((index) => recordSound(100 + index, 0.5 + index / 100, LIBRARY.recordS));
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
  for (let second = 0; second < PIECE_S; second++) {
    const [heard, played] = [at(game, second), at(tunes[0], second)];
    const mix = heard.map((plane, side) => plane.map((value, i) => value + 0.1 * played[side][i]));
    const alone = tunes.slice(1).map((tune) => at(tune, second));
    await writer.add([[mix[0], mix[1]], heard, ...alone, silent], RATE);
  }
  await writer.finish();
}
