import { main } from './main.ts';

// A reader may stop before the end, as `head` does. The work is still finished, and the exit code says how it ended.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code !== 'EPIPE') throw error;
});

process.exitCode = await main(process.argv.slice(2));
