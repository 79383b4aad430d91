import { resolve } from 'node:path';
import { pino } from 'pino';
import { DataFolderError } from './dataFolder.ts';
import { type Serving, StartError, serve } from './serve.ts';
import { DEFAULT_PORT, defaultDataDir, INSTALLED, portOf } from './settings.ts';

/** What the commands that start the server are told; what is left out comes from the environment. */
export interface RunServerOptions {
  demo: boolean;
  port?: string;
  dataDir?: string;
  mediaDir?: string;
  /** Called with the address once it answers for good. */
  onReady?: (address: string) => void;
}

/** After being told to end, the process ends at the latest after this long (ms). */
const LAST_MOMENT_MS = 10_000;

/**
 * Runs the server until it is told to end, and writes to the terminal how it stands.
 * @returns 1 when it could not start, after a sentence on standard error; 0 once it is ready
 */
export async function runServer({
  demo,
  port,
  dataDir,
  mediaDir,
  onReady,
}: RunServerOptions): Promise<0 | 1> {
  const {
    PORT,
    NORTHFEN_DATA_DIR,
    NORTHFEN_MEDIA_DIR,
    NORTHFEN_DELIVER_DIR,
    NORTHFEN_SIMULATED_DISK_BYTES,
    NORTHFEN_LOG,
  } = process.env;
  const log = pino({ level: NORTHFEN_LOG ?? 'warn' });
  let serving: Serving;
  try {
    serving = await serve({
      ...INSTALLED,
      port: portOf(port ?? PORT ?? String(DEFAULT_PORT)),
      dataDir: dataDir ?? NORTHFEN_DATA_DIR ?? defaultDataDir(),
      mediaDir: resolved(mediaDir ?? NORTHFEN_MEDIA_DIR),
      deliverDir: resolved(NORTHFEN_DELIVER_DIR),
      demo,
      log,
      onState: (state) => console.log(`  ${state}`),
      spaceBytes: NORTHFEN_SIMULATED_DISK_BYTES ? Number(NORTHFEN_SIMULATED_DISK_BYTES) : undefined,
    });
  } catch (error) {
    const isKnown = error instanceof StartError || error instanceof DataFolderError;
    console.error(isKnown ? error.message : error);
    process.exitCode = 1;
    return 1;
  }
  endsWhenTold(serving);
  console.log(`Northfen is ready: ${serving.address}`);
  onReady?.(serving.address);
  return 0;
}

/** A folder that is named from where Northfen is started. */
function resolved(folder: string | undefined): string | null {
  return folder ? resolve(folder) : null;
}

function endsWhenTold(serving: Serving): void {
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) {
    process.once(signal, () => {
      setTimeout(() => process.exit(0), LAST_MOMENT_MS).unref();
      void serving.close().finally(() => process.exit(0));
    });
  }
}
