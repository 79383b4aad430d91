import { type ChildProcess, spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));

/** Starts the built server with demo data in a folder of its own, and waits until it is ready. */
export async function startServer(
  port: number,
  dataDir: string,
  env: Record<string, string> = {},
): Promise<ChildProcess> {
  const server = spawn(process.execPath, ['dist/node/server.js'], {
    cwd: root,
    env: { ...process.env, PORT: String(port), NORTHFEN_DATA_DIR: dataDir, ...env },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise<void>((resolve, reject) => {
    server.stdout?.on('data', (text: Buffer) => text.toString().includes('is ready') && resolve());
    server.on('exit', (code) => reject(new Error(`the server ended with ${code}`)));
  });
  return server;
}

// biome-ignore lint/style/noDefaultExport: the test runner wants it so
export default async function globalSetup(): Promise<() => Promise<void>> {
  const dataDir = mkdtempSync(join(tmpdir(), 'northfen-e2e-'));
  const server = await startServer(4791, dataDir);
  return async () => {
    // What it is still making it writes until it has ended.
    const isAlive = server.exitCode === null && server.signalCode === null;
    const ended = isAlive ? once(server, 'exit') : null;
    server.kill();
    await ended;
    rmSync(dataDir, { recursive: true, force: true });
  };
}
