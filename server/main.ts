import { createServer } from 'node:http';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { pino } from 'pino';
import { createApp } from './app.ts';
import { createDemoData } from './demoData.ts';
import { threadRunner } from './jobs/runner.ts';
import { openContext } from './open.ts';

/** This file is built into dist/node, two folders below the root. */
const root = fileURLToPath(new URL('../../', import.meta.url));
const port = Number(process.env.PORT ?? 4780);
const dataDir = process.env.NORTHFEN_DATA_DIR ?? join(root, 'data');
const spaceBytes = process.env.NORTHFEN_SIMULATED_DISK_BYTES
  ? Number(process.env.NORTHFEN_SIMULATED_DISK_BYTES)
  : undefined;

const log = pino({ level: process.env.NORTHFEN_LOG ?? 'warn' });
const runner = threadRunner(fileURLToPath(new URL('./worker.js', import.meta.url)));
const context = openContext({ dataDir, runner, log, spaceBytes });
await createDemoData(context, join(root, 'assets/voices'), (step) =>
  console.log(`  making the demo: ${step}`),
);

const server = createServer(createApp(context, join(root, 'dist/web')));
server.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EADDRINUSE') {
    console.error(
      `Port ${port} is taken. Stop the other program, or choose another port: PORT=4790 npm run demo`,
    );
  } else console.error(error.message);
  process.exit(1);
});
server.listen(port, '127.0.0.1', () => console.log(`Northfen is ready: http://127.0.0.1:${port}`));

for (const signal of ['SIGINT', 'SIGTERM'] as const) {
  process.on(signal, () => {
    server.close();
    server.closeAllConnections();
    void context.close().finally(() => process.exit(0));
  });
}
