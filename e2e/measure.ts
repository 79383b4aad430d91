import { execFile } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';

const run = promisify(execFile);
const command = fileURLToPath(new URL('../bin/northfen.mjs', import.meta.url));

/** Runs the northfen command and returns the JSON that it printed. */
export async function northfen<T>(...args: string[]): Promise<T> {
  const { stdout } = await run('node', [command, ...args, '--json'], { maxBuffer: 1 << 26 });
  return JSON.parse(stdout) as T;
}

/** What an independent meter (ffmpeg's ebur128 filter) reads of one audio track. */
export async function independentLoudness(file: string, track: number): Promise<number> {
  const args = [
    '-hide_banner',
    '-nostats',
    '-i',
    file,
    '-map',
    `0:a:${track}`,
    '-af',
    'ebur128=framelog=verbose',
    '-f',
    'null',
    '-',
  ];
  const { stderr } = await run('ffmpeg', args);
  const figures = [...stderr.matchAll(/I:\s+(-?[\d.]+) LUFS/g)];
  return Number(figures.at(-1)?.[1]);
}

/** The names of a file's audio tracks, as an independent reader (ffprobe) sees them. */
export async function trackNames(file: string): Promise<string[]> {
  const { stdout } = await run('ffprobe', [
    '-v',
    'error',
    '-select_streams',
    'a',
    '-show_entries',
    'stream_tags=title',
    '-of',
    'json',
    file,
  ]);
  return (JSON.parse(stdout) as { streams: { tags?: { title?: string } }[] }).streams.map(
    (stream) => stream.tags?.title ?? '',
  );
}
