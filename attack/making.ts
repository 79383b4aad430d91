import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { seededRandom } from '../core/audio/random.ts';
import type { Delivery, DeliveryOrder } from '../core/deliver/records.ts';
import { AttackedServer, pause } from './server.ts';

const PORT = 4796;
const SECONDS = 30;
/** What is made is ended after this long at most (ms); some of it is done by then. */
const MOST_MS = 2500;

/** How often what was made was ended, and in what state it was then. */
export interface MakingOutcome {
  wrong: string[];
  /** How many ran, or waited, when they were ended; and how many were done before. */
  ended: number;
  done: number;
}

/**
 * Makes files of each kind of a recording, and ends each at a moment by chance: the server is killed (SIGKILL) and started anew, or the job is
 * stopped. Then looks whether it is told as it is, whether anything unfinished was left, and whether the recording is as it was.
 */
export async function attackMaking(root: string, rounds: number): Promise<MakingOutcome> {
  const folder = mkdtempSync(join(tmpdir(), 'northfen-making-'));
  const mediaDir = join(folder, 'media');
  const dataDir = join(folder, 'data');
  const deliverDir = join(folder, 'made');
  const random = seededRandom(11);
  const outcome: MakingOutcome = { wrong: [], ended: 0, done: 0 };
  mkdirSync(mediaDir);
  mkdirSync(deliverDir);
  writeRecordings(mediaDir);
  const before = sumsOf(mediaDir);
  const start = async () => {
    const env = { NORTHFEN_MEDIA_DIR: mediaDir, NORTHFEN_DELIVER_DIR: deliverDir };
    const server = new AttackedServer(root, dataDir, PORT, env);
    await server.ready();
    return server;
  };
  try {
    let server = await start();
    const [evening, voice] = await checked(server);
    for (let round = 0; round < rounds; round++)
      for (const order of ordersWith(voice)) {
        const { status, body } = await server.ask('/deliveries', {
          method: 'POST',
          json: { checkId: evening, order },
        });
        if (status !== 202)
          throw new Error(`${order.kind} was answered with ${status}: ${JSON.stringify(body)}`);
        const { id } = body as Delivery;
        await pause(random() * MOST_MS);
        if (random() < 0.5) {
          server.process.kill('SIGKILL');
          await server.ended();
          server = await start();
        } else await server.ask(`/deliveries/${id}/stop`, { method: 'POST' });
        const made = await ended(server, id);
        if (made.state === 'done') outcome.done += 1;
        else outcome.ended += 1;
        const what = `round ${round}, ${order.kind} (${made.state})`;
        if (made.state !== 'done' && (made.message ?? '') === '')
          outcome.wrong.push(`${what}: nothing is told`);
        outcome.wrong.push(...(await leftOver(server, evening, deliverDir)).map((one) => `${what}: ${one}`));
        if (sumsOf(mediaDir) !== before) outcome.wrong.push(`${what}: a recording was changed`);
      }
    console.log(`making: ${outcome.ended} ended, ${outcome.done} done before that`);
    server.process.kill('SIGTERM');
    await server.ended();
  } catch (error) {
    outcome.wrong.push((error as Error).message);
  } finally {
    AttackedServer.endAll();
    rmSync(folder, { recursive: true, force: true });
  }
  return outcome;
}

/** A picture, a mix, the same without the music, and the music; and the voice by itself in a file of its own. */
function writeRecordings(mediaDir: string): void {
  const length = `duration=${SECONDS}:sample_rate=48000`;
  const parts = [
    `testsrc=size=320x180:rate=30:duration=${SECONDS}[v]`,
    `anoisesrc=seed=1:amplitude=0.2:${length},volume='0.1+0.8*gt(mod(t,3),1.5)':eval=frame,asplit=3[a][b][alone]`,
    `anoisesrc=seed=2:color=pink:amplitude=0.2:${length},volume='0.1+0.9*gt(mod(t,5),2)':eval=frame,asplit=2[music][m]`,
    '[a][m]amix=inputs=2:normalize=0[mix]',
  ];
  const maps = ['v', 'mix', 'b', 'music'].flatMap((name) => ['-map', `[${name}]`]);
  const titles = ['Stream', 'Mic', 'Music'].flatMap((title, at) => [`-metadata:s:a:${at}`, `title=${title}`]);
  const coded = ['-c:v', 'libx264', '-preset', 'ultrafast', '-c:a', 'aac'];
  execFileSync('ffmpeg', [
    ...['-v', 'error', '-filter_complex', parts.join(';'), ...maps, ...titles, ...coded],
    ...[join(mediaDir, 'evening.mkv'), '-map', '[alone]', join(mediaDir, 'voice.wav')],
  ]);
}

/** Has the recordings checked; returns their ids. */
async function checked(server: AttackedServer): Promise<string[]> {
  const { body } = await server.ask('/checks', {
    method: 'POST',
    json: { paths: ['evening.mkv', 'voice.wav'], setupId: null },
  });
  const ids = (body as { id: string }[]).map(({ id }) => id);
  for (const id of ids)
    while (((await server.ask(`/checks/${id}`)).body as { state: string }).state !== 'idle') await pause(100);
  return ids;
}

function ordersWith(voice: string): DeliveryOrder[] {
  const upload = {
    tracks: [{ track: 1, rescueId: null, gainDb: 0 }],
    targetLufs: -14,
    ceilingDbtp: -1,
    container: 'mp4' as const,
    fadeS: 0,
    pieces: [
      { name: 'All of it', fromS: 0, untilS: null },
      { name: 'A clip', fromS: 5, untilS: 15 },
    ],
    evenIf: [],
  };
  return [
    { kind: 'files', upload, handoff: 'flac' },
    { kind: 'rescue', track: 0, sound: { track: 2, file: null } },
    { kind: 'join', track: 0, others: [voice] },
    { kind: 'rewrap', container: 'mp4' },
    { kind: 'repair' },
    { kind: 'marks' },
  ];
}

/** Waits until a delivery neither runs nor waits. */
async function ended(server: AttackedServer, id: string): Promise<Delivery> {
  for (;;) {
    const made = (await server.ask(`/deliveries/${id}`)).body as Delivery;
    if (made.state !== 'running' && made.state !== 'waiting') return made;
    await pause(50);
  }
}

/** What lies in the folder of what is made, and belongs to nothing that was made. */
async function leftOver(server: AttackedServer, checkId: string, deliverDir: string): Promise<string[]> {
  const made = (await server.ask(`/checks/${checkId}/deliveries`)).body as Delivery[];
  const folders = new Set(made.filter(({ state }) => state === 'done').map(({ folder }) => folder));
  const there = readdirSync(deliverDir, { withFileTypes: true, recursive: true });
  return there.flatMap((one) => {
    const path = join(one.parentPath, one.name);
    if (one.parentPath === deliverDir && !folders.has(path)) return [`${one.name} was left`];
    return /\.part$|\.unchecked\./.test(one.name) ? [`${path} was left`] : [];
  });
}

/** One sum over all files of a folder, with their names. */
function sumsOf(folder: string): string {
  const hash = createHash('sha256');
  for (const name of readdirSync(folder).sort()) hash.update(name).update(readFileSync(join(folder, name)));
  return hash.digest('hex');
}
