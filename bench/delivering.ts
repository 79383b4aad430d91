import { mkdtempSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { PIECE_S, PIECES, repeated, took } from './timing.ts';

const SECONDS = PIECES * PIECE_S;
const TRACKS = 6;

/**
 * Times what is made of a recording with a picture and six tracks (AAC), from file to file by the command line, beside ffmpeg where it does the
 * same. Yields a line for each.
 */
export async function* timeDeliveries(folder: string): AsyncGenerator<string> {
  const [piece, path] = ['piece.mkv', 'delivered.mkv'].map((name) => join(folder, name));
  await writeRecording(piece);
  await repeated(piece, path, PIECES);
  const northfen = (args: string[], codes = [0]) =>
    took(process.execPath, ['bin/northfen.mjs', ...args], codes);
  const ffmpeg = (args: string[]) => took('ffmpeg', ['-v', 'error', '-y', ...args]);
  const made = mkdtempSync(join(folder, 'made-'));
  const at = (name: string) => join(made, name);
  try {
    const remuxed = await northfen(['remux', path, at('ours.mp4')]);
    const copied = await ffmpeg([
      '-i',
      path,
      '-map',
      '0',
      '-c',
      'copy',
      '-movflags',
      '+faststart',
      at('theirs.mp4'),
    ]);
    yield line(
      'remux into MP4',
      remuxed,
      `${ratio(copied, remuxed)} times as fast as ffmpeg (bound 0.5, aim 1)`,
    );

    const extracted = await northfen(['extract', path, '--out', at('flac'), '--format', 'flac']);
    const outputs = Array.from({ length: TRACKS }, (_, track) => [
      '-map',
      `0:a:${track}`,
      at(`${track}.flac`),
    ]).flat();
    const decoded = await ffmpeg(['-i', path, ...outputs]);
    yield line(
      `${TRACKS} tracks into FLAC`,
      extracted,
      `${ratio(decoded, extracted)} times as fast as ffmpeg (bound 1)`,
    );

    const rescued = await northfen(
      ['rescue', path, '--track', '1', '--reference', '3', '--out', at('rescued.wav')],
      [0, 3, 4],
    );
    yield line('a rescue', rescued, `${speed(rescued)} times real time (bound 20)`);

    const mixed = ['--track', '2', '--track', '4', '--forbid', '3'];
    const uploaded = await northfen(['upload', path, ...mixed, '--out', at('upload.mp4')], [0, 3, 4]);
    yield line(
      'an upload with a new mix, checked',
      uploaded,
      `${speed(uploaded)} times real time (bound 30)`,
    );
  } finally {
    rmSync(made, { recursive: true, force: true });
    for (const one of [piece, path]) rmSync(one, { force: true });
  }
}

type Took = Awaited<ReturnType<typeof took>>;

function line(what: string, { mostMb }: Took, words: string): string {
  return `${what}, ${SECONDS / 60} minutes: ${words}, ${mostMb.toFixed(0)} MB at most (bound 500)`;
}

function ratio(theirs: Took, ours: Took): string {
  return (theirs.seconds / ours.seconds).toFixed(2);
}

function speed({ seconds }: Took): string {
  return (SECONDS / seconds).toFixed(0);
}

/** A picture; a mix with the music 12 dB down in it, a voice, the music, the game, and two more. */
async function writeRecording(path: string): Promise<void> {
  const length = `duration=${PIECE_S}:sample_rate=48000`;
  const song = '0.4*sin(2*PI*t*(220+110*floor(mod(t*1.7,5))))*exp(-3*mod(t*1.7,1))';
  const parts = [
    `testsrc2=size=640x360:rate=30:duration=${PIECE_S}[v]`,
    `anoisesrc=seed=1:amplitude=0.3:${length},volume='0.1+0.8*gt(mod(t,3),1.5)':eval=frame,aformat=channel_layouts=stereo,asplit=2[voice][a]`,
    `anoisesrc=seed=2:color=pink:amplitude=0.2:${length},aformat=channel_layouts=stereo,asplit=4[game][b][one][two]`,
    `aevalsrc='${song}|${song}':${length},asplit=2[music][c]`,
    '[c]volume=0.25[leak]',
    '[a][b][leak]amix=inputs=3:normalize=0[mix]',
  ];
  const maps = ['v', 'mix', 'voice', 'music', 'game', 'one', 'two'].flatMap((name) => ['-map', `[${name}]`]);
  await took('ffmpeg', [
    ...['-v', 'error', '-y', '-filter_complex', parts.join(';'), ...maps],
    ...['-c:v', 'libx264', '-preset', 'ultrafast', '-c:a', 'aac', '-b:a', '160k', path],
  ]);
}
