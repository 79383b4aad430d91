/**
 * Makes the demo's voices anew (assets/voices/*.flac) from lines.json. Needs Debian's espeak-ng and ffmpeg; the
 * product itself does not: the results are shipped.
 */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const folder = fileURLToPath(new URL('../assets/voices/', import.meta.url));
const { seconds, sampleRate, voices } = JSON.parse(readFileSync(join(folder, 'lines.json'), 'utf8'));
const work = mkdtempSync(join(tmpdir(), 'northfen-voices-'));

for (const [name, { voice, pitch, speed, gainDb, noiseDb, lines }] of Object.entries(voices)) {
  const files = lines.map(([, text], index) => {
    const file = join(work, `${name}-${index}.wav`);
    execFileSync('espeak-ng', ['-v', voice, '-p', String(pitch), '-s', String(speed), '-w', file, text]);
    return file;
  });
  warnOfOverlaps(name, lines, files);
  const placed = lines.map(
    ([start], index) => `[${index}]aresample=${sampleRate},adelay=${Math.round(start * 1000)}[line${index}]`,
  );
  const room = `anoisesrc=color=pink:sample_rate=${sampleRate}:amplitude=${10 ** ((noiseDb + 12) / 20)}:seed=${name.length * 97}[room]`;
  const mix = `${lines.map((_, index) => `[line${index}]`).join('')}[room]amix=inputs=${lines.length + 1}:normalize=0:duration=longest,volume=${gainDb}dB,apad,atrim=0:${seconds}[out]`;
  execFileSync('ffmpeg', [
    ...['-hide_banner', '-loglevel', 'error', '-y'],
    ...files.flatMap((file) => ['-i', file]),
    ...['-filter_complex', [...placed, room, mix].join(';'), '-map', '[out]'],
    ...[
      '-t',
      String(seconds),
      '-ac',
      '1',
      '-sample_fmt',
      's16',
      '-map_metadata',
      '-1',
      '-fflags',
      '+bitexact',
      '-flags:a',
      '+bitexact',
    ],
    ...['-compression_level', '12', join(folder, `${name}.flac`)],
  ]);
}
rmSync(work, { recursive: true });

function warnOfOverlaps(name, lines, files) {
  files.forEach((file, index) => {
    const length = Number(
      execFileSync('ffprobe', ['-v', 'error', '-show_entries', 'format=duration', '-of', 'csv=p=0', file], {
        encoding: 'utf8',
      }),
    );
    const end = lines[index][0] + length;
    const next = lines[index + 1]?.[0] ?? seconds;
    console.log(
      `${name} ${lines[index][0].toFixed(1)} – ${end.toFixed(1)} s${end > next ? '   OVERLAPS THE NEXT LINE' : ''}`,
    );
  });
}
