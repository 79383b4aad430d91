import { main } from './main.ts';

// Whoever reads may have enough before the end, as `head` does: then there is nobody to write for.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code !== 'EPIPE') throw error;
  process.exit();
});

process.exitCode = await main(process.argv.slice(2));
