import { once } from 'node:events';
import { createServer, type RequestListener, type Server } from 'node:http';
import type { Logger } from 'pino';
import { createApp } from './app.ts';
import { claimDataFolder } from './dataFolder.ts';
import { createDemoData, recordDemo } from './demoData.ts';
import { threadRunner } from './jobs/runner.ts';
import { orDiskFull } from './media/diskFile.ts';
import { openContext } from './open.ts';
import { startingPage } from './startingPage.ts';

export interface ServeOptions {
  /** 0 to 65535; 0 takes a free one. */
  port: number;
  dataDir: string;
  /** The folder of recordings to check, where there is one. */
  mediaDir?: string | null;
  /** Where what is made of recordings is put. */
  deliverDir?: string | null;
  /** Make the demo's recordings and setups where they are missing. */
  demo: boolean;
  /** The built interface, the shipped voices, and the built worker. */
  webDir: string;
  voicesDir: string;
  workerFile: string;
  log: Logger;
  /** Told what is going on while it starts. */
  onState?: (state: string) => void;
  /** Pretends that the disk is full beyond this many bytes of a take. */
  spaceBytes?: number;
}

/** A server that runs: its address, and its end, which waits (not for ever) for what it is doing. */
export interface Serving {
  address: string;
  close(): Promise<void>;
}

/** Thrown when the server cannot start; the message says why and what to do. */
export class StartError extends Error {
  constructor(message: string) {
    super(message);
    this.name = 'StartError';
  }
}

/**
 * Starts the server. It answers at once, with how far it is; the data folder is claimed first, so that a second start of
 * the same one touches nothing.
 * @throws {StartError} when the port cannot be had; {DataFolderError} when the folder cannot
 */
export async function serve(options: ServeOptions): Promise<Serving> {
  const { port, dataDir, mediaDir, deliverDir, demo, webDir, voicesDir, workerFile, log, spaceBytes } =
    options;
  const { onState = () => {} } = options;
  const folder = claimDataFolder(dataDir);
  let state = 'Opening the data folder …';
  let answer: RequestListener = startingPage(() => state);
  const server = createServer((request, response) => answer(request, response));
  // An upload takes as long as it takes; what is slow in sending its headers is ended after a minute.
  server.requestTimeout = 0;
  server.headersTimeout = 60_000;
  try {
    const address = await listen(server, port);
    folder.setAddress(address);
    const runner = threadRunner(workerFile);
    const context = openContext({
      dataDir: folder.path,
      mediaDir,
      deliverDir,
      folder,
      runner,
      log,
      spaceBytes,
    });
    const close = async () => {
      server.close();
      server.closeAllConnections();
      await context.close();
    };
    if (demo) {
      state = 'Making the demo …';
      onState(state);
      await createDemoData(context, voicesDir, ({ name, done, count }) => {
        state = `Making the demo: ${done} of ${count} recordings (${name}) …`;
        onState(state);
      }).catch(async (error) => {
        await close();
        throw error;
      });
    }
    answer = createApp(context, webDir);
    if (demo) void recordDemo(context);
    return { address, close };
  } catch (error) {
    server.close();
    server.closeAllConnections();
    folder.release();
    const known = orDiskFull(error);
    throw known === error ? error : new StartError((known as Error).message);
  }
}

async function listen(server: Server, port: number): Promise<string> {
  server.listen(port, '127.0.0.1');
  try {
    await once(server, 'listening');
  } catch (error) {
    throw new StartError(portWords(port, error as NodeJS.ErrnoException));
  }
  const bound = server.address();
  return `http://127.0.0.1:${typeof bound === 'object' ? bound?.port : port}`;
}

function portWords(port: number, { code, message }: NodeJS.ErrnoException): string {
  if (code === 'EADDRINUSE')
    return `Port ${port} is taken by another program. Stop that one, or choose another port (PORT, or --port).`;
  if (code === 'EACCES')
    return `Port ${port} may not be used without special rights. Choose one from 1024 up (PORT, or --port).`;
  return `Northfen cannot answer on port ${port}: ${message}`;
}
