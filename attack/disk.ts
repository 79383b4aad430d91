import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { noise } from '../core/testing/tones.ts';
import { writeSound } from '../server/testing.ts';
import { AttackedServer, pause } from './server.ts';

const PORT = 4798;
const SIZE_MB = 24;

/**
 * Runs the server on a small disk of its own that is filled up on the way: every action says so in a sentence, the server goes on,
 * edits go on when there is room, and nothing half done stays. Needs the right to mount (Linux, root); says so where it is missing.
 * @returns what is wrong
 */
export async function attackDisk(root: string): Promise<string[]> {
  const folder = mkdtempSync(join(tmpdir(), 'northfen-disk-'));
  const disk = join(folder, 'disk');
  mkdirSync(disk);
  const mounted = spawnSync('mount', ['-t', 'tmpfs', '-o', `size=${SIZE_MB}m`, 'tmpfs', disk]).status === 0;
  if (!mounted) {
    rmSync(folder, { recursive: true, force: true });
    console.log('disk: not tried: a small disk cannot be mounted here (Linux and root are needed)');
    return [];
  }
  const wrong: string[] = [];
  try {
    wrong.push(...(await fillUp(root, folder, disk)));
    console.log(
      'disk: filled up during edits, an upload, a measurement and a render, emptied, and filled at a start',
    );
  } catch (error) {
    wrong.push((error as Error).message);
  } finally {
    AttackedServer.endAll();
    spawnSync('umount', ['-l', disk]);
    rmSync(folder, { recursive: true, force: true });
  }
  return wrong;
}

async function fillUp(root: string, folder: string, disk: string): Promise<string[]> {
  const wrong: string[] = [];
  const dataDir = join(disk, 'data');
  const server = new AttackedServer(root, dataDir, PORT);
  await server.ready();
  const setup = (await server.ask('/setups', { method: 'POST', json: { from: 'voice-over' } })).body as {
    id: string;
  };
  await writeSound(join(folder, 'sound.wav'), noise(3, 20 * 48_000), {}, 'wav');
  const sound = await readFile(join(folder, 'sound.wav'));
  const upload = () => server.ask('/media?name=sound.wav', { method: 'POST', body: sound });
  const first = await upload();
  if (first.status !== 201) wrong.push(`the first upload was answered with ${first.status}`);
  const { path } = first.body as { path: string };
  let revision = 1;
  const edit = async (values: unknown) => {
    const json = { revision, edit: { edit: 'updateSource', id: 'game', values } };
    const answer = await server.ask(`/setups/${setup.id}/edits`, { method: 'POST', json });
    if (answer.status === 200) revision = (answer.body as { revision: number }).revision;
    return answer;
  };
  await edit({ media: { path } });
  const before = () => readdirSync(join(dataDir, 'media')).length;
  const files = before();

  // A render begins, and somebody else takes the rest of the disk.
  await server.ask(`/setups/${setup.id}/renders`, { method: 'POST' });
  const filler = join(disk, 'filler');
  fillWhole(filler, disk);
  const said = (name: string, { status, body }: { status: number; body: unknown }) => {
    const message = (body as { error?: { message?: string } } | null)?.error?.message ?? '';
    if (status < 400) return;
    if (status !== 507 || !/disk is full|cannot be written/.test(message))
      wrong.push(`${name} on a full disk: ${status} ${message}`);
  };
  let refused = 0;
  for (let i = 0; i < 40; i++) {
    const answer = await edit({ name: `Game ${i} ${'x'.repeat(60)}` });
    said('an edit', answer);
    if (answer.status >= 400) refused += 1;
  }
  if (refused === 0) wrong.push('the disk did not get full');
  said('an upload', await upload());
  said(
    'a raw recording',
    await server
      .ask(`/sounds/stem?path=${encodeURIComponent(path)}`)
      .catch(() => ({ status: 0, body: null })),
  );
  said('a render', await server.ask(`/setups/${setup.id}/renders`, { method: 'POST' }));
  if (!server.isAlive) return [...wrong, `the server ended: ${server.said}`];
  for (let i = 0; i < 200 && (await states(server, setup.id)).includes('running'); i++) await pause(100);
  const stuck = (await states(server, setup.id)).filter((state) => state === 'running');
  if (stuck.length > 0) wrong.push('a render still says that it runs');
  if (before() !== files) wrong.push('a half upload stayed in media');
  const takes = readdirSync(join(dataDir, 'takes'));
  const known = (await server.ask(`/takes?setup=${setup.id}`)).body as { id: string }[];
  if (takes.length !== known.length) wrong.push(`takes on disk: ${takes.length}, known: ${known.length}`);

  // A start on a full disk says so.
  const second = new AttackedServer(root, join(disk, 'other'), PORT + 1);
  await second.ended();
  if (
    second.process.exitCode !== 1 ||
    /\n\s+at /.test(second.said) ||
    !/full|cannot be written/.test(second.said)
  )
    wrong.push(`a start on a full disk said: ${second.said}`);

  rmSync(filler);
  const after = await edit({ name: 'Game, with room again' });
  if (after.status !== 200) wrong.push(`with room again, an edit was answered with ${after.status}`);
  server.process.kill('SIGTERM');
  await server.ended();
  const again = new AttackedServer(root, dataDir, PORT);
  await again.ready();
  const stored = (await again.ask(`/setups/${setup.id}`)).body as { revision: number };
  wrong.push(...(await readOnly(again, root, disk, setup.id, revision)));
  if (stored.revision !== revision)
    wrong.push(`revision ${revision} was acknowledged, ${stored.revision} is there`);
  again.process.kill('SIGTERM');
  await again.ended();
  return wrong;
}

/** The disk becomes read-only while the server works, and is so at a start. */
async function readOnly(
  server: AttackedServer,
  root: string,
  disk: string,
  setupId: string,
  revision: number,
): Promise<string[]> {
  const remount = (how: string) => spawnSync('mount', ['-o', `remount,${how}`, disk]).status === 0;
  // A file that is open for writing keeps a disk from becoming read-only: the server's own must be let go first.
  if (!remount('ro')) {
    server.process.kill('SIGTERM');
    await server.ended();
    if (!remount('ro')) {
      console.log('disk: read-only was not tried: the disk could not be made so');
      return [];
    }
    console.log('disk: read-only at a start');
    const second = new AttackedServer(root, join(disk, 'data'), PORT + 2);
    await second.ended();
    remount('rw');
    return second.process.exitCode === 1 &&
      !/\n\s+at /.test(second.said) &&
      /cannot be written to/.test(second.said)
      ? []
      : [`a start on a read-only disk said: ${second.said}`];
  }
  console.log('disk: read-only while it works');
  const json = { revision, edit: { edit: 'updateSource', id: 'game', values: { name: 'Read-only' } } };
  const { status, body } = await server.ask(`/setups/${setupId}/edits`, { method: 'POST', json });
  remount('rw');
  const after = await server.ask(`/setups/${setupId}/edits`, { method: 'POST', json });
  return status === 507 && after.status === 200
    ? []
    : [`read-only: ${status} ${JSON.stringify(body)}, then ${after.status}`];
}

async function states(server: AttackedServer, setupId: string): Promise<string[]> {
  const jobs = (await server.ask(`/setups/${setupId}/renders`)).body as { state: string }[];
  return jobs.map(({ state }) => state);
}

function fillWhole(file: string, disk: string): void {
  for (let size = 1 << 20; size >= 4096; size /= 2) {
    for (;;) {
      const { bavail, bsize } = statfsSync(disk);
      if (bavail * bsize < size) break;
      writeFileSync(file, Buffer.alloc(size, 1), { flag: 'a' });
    }
  }
}
