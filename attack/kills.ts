import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { seededRandom } from '../core/audio/random.ts';
import { noise } from '../core/testing/tones.ts';
import { writeSound } from '../server/testing.ts';
import { AttackedServer, pause } from './server.ts';

const PORT = 4797;

/**
 * Kills the server (SIGKILL) again and again while it takes in edits, uploads and renders, starts it anew on the same folder, and
 * looks whether every edit that it had acknowledged is there, and whether anything half done was left.
 * @returns what is wrong
 */
export async function attackByKilling(root: string, rounds: number): Promise<string[]> {
  const folder = mkdtempSync(join(tmpdir(), 'northfen-kills-'));
  const dataDir = join(folder, 'data');
  const random = seededRandom(7);
  const wrong: string[] = [];
  let acknowledged = 0;
  let edits = 0;
  try {
    const { readFile } = await import('node:fs/promises');
    await writeSound(join(folder, 'sound.wav'), noise(3, 480_000), {}, 'wav');
    const sound = await readFile(join(folder, 'sound.wav'));
    let setupId = '';
    for (let round = 0; round <= rounds; round++) {
      const server = new AttackedServer(root, dataDir, PORT);
      await server.ready();
      if (round === 0)
        setupId = (
          (await server.ask('/setups', { method: 'POST', json: { from: 'voice-over' } })).body as {
            id: string;
          }
        ).id;
      else wrong.push(...(await leftOver(server, dataDir, setupId, acknowledged, round)));
      if (round === rounds) {
        server.process.kill('SIGTERM');
        await server.ended();
        break;
      }
      const isOver = { yes: false };
      const work = Promise.allSettled([
        editAway(
          server,
          setupId,
          isOver,
          (number) => {
            acknowledged = number;
            edits += 1;
          },
          acknowledged,
        ),
        server.ask(`/media?name=sound-${round}.wav`, { method: 'POST', body: sound }),
        server.ask(`/setups/${setupId}/renders`, { method: 'POST' }),
      ]);
      await pause(150 + random() * 900);
      server.process.kill('SIGKILL');
      isOver.yes = true;
      await server.ended();
      await work;
    }
    console.log(`kills: ${rounds} rounds, ${edits} acknowledged edits`);
  } catch (error) {
    wrong.push((error as Error).message);
  } finally {
    AttackedServer.endAll();
    rmSync(folder, { recursive: true, force: true });
  }
  return wrong;
}

/** Renames a source, again and again, with a number that grows. */
async function editAway(
  server: AttackedServer,
  setupId: string,
  isOver: { yes: boolean },
  onDone: (number: number) => void,
  from: number,
): Promise<void> {
  let { revision } = (await server.ask(`/setups/${setupId}`)).body as { revision: number };
  for (let number = from + 1; !isOver.yes; number++) {
    const edit = { edit: 'updateSource', id: 'game', values: { name: `Game ${number}` } };
    const { status, body } = await server.ask(`/setups/${setupId}/edits`, {
      method: 'POST',
      json: { revision, edit },
    });
    if (status !== 200) throw new Error(`an edit was answered with ${status}`);
    revision = (body as { revision: number }).revision;
    onDone(number);
  }
}

async function leftOver(
  server: AttackedServer,
  dataDir: string,
  setupId: string,
  acknowledged: number,
  round: number,
): Promise<string[]> {
  const wrong: string[] = [];
  const { setup } = (await server.ask(`/setups/${setupId}`)).body as {
    setup: { sources: { id: string; name: string }[] };
  };
  const name = setup.sources.find(({ id }) => id === 'game')?.name ?? '';
  const number = Number(name.replace(/\D/g, '')) || 0;
  // One more than was acknowledged may be there: written, but killed before it could say so.
  if (number < acknowledged || number > acknowledged + 1)
    wrong.push(`round ${round}: edit ${acknowledged} was acknowledged, ${number} is there`);
  const media = (await server.ask('/media')).body as { file: string }[];
  const known = new Set(media.map(({ file }) => file));
  const strays = readdirSync(join(dataDir, 'media')).filter((file) => !known.has(file));
  if (strays.length > 0) wrong.push(`round ${round}: left in media: ${strays.join(', ')}`);
  const jobs = (await server.ask(`/setups/${setupId}/renders`)).body as { state: string }[];
  if (jobs.some(({ state }) => state === 'running')) wrong.push(`round ${round}: a render runs that cannot`);
  const takes = (await server.ask(`/takes?setup=${setupId}`)).body as { id: string }[];
  const ids = new Set(takes.map(({ id }) => id));
  const half = readdirSync(join(dataDir, 'takes')).filter((take) => !ids.has(take));
  if (half.length > 0) wrong.push(`round ${round}: half takes: ${half.join(', ')}`);
  return wrong;
}
