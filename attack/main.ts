import { fileURLToPath } from 'node:url';
import { attackDisk } from './disk.ts';
import { attackByKilling } from './kills.ts';
import { attackMaking } from './making.ts';
import { attackMedia } from './media.ts';
import { attackMemory } from './memory.ts';

/** Built into .cache, beside dist. */
const root = fileURLToPath(new URL('..', import.meta.url));
const workerFile = fileURLToPath(new URL('../dist/node/worker.js', import.meta.url));

/** Each attack: it prints what it finds, and returns what is wrong. */
const ATTACKS: Record<string, () => Promise<string[]>> = {
  async media() {
    const count = Number(process.env.NORTHFEN_MUTANTS ?? 3000);
    const outcome = await attackMedia(workerFile, count, (done, most) => {
      if (done % 100 === 0) console.log(`  ${done} of ${count}, at most ${Math.round(most / 2 ** 20)} MB`);
    });
    console.log(
      `media: ${count} damaged files: ${outcome.read} read, ${outcome.refused} refused in words, ${outcome.stalled.length} ended by the watchdog, at most ${Math.round(outcome.mostBytes / 2 ** 20)} MB`,
    );
    const tooMuch = outcome.mostBytes > 2 ** 30 ? ['more than 1 GB of memory'] : [];
    return [...outcome.faults, ...outcome.stalled.map((name) => `hung: ${name}`), ...tooMuch];
  },
  kills: () => attackByKilling(root, Number(process.env.NORTHFEN_KILLS ?? 60)),
  making: async () => (await attackMaking(root, Number(process.env.NORTHFEN_ROUNDS ?? 10))).wrong,
  disk: () => attackDisk(root),
  memory: () => attackMemory(workerFile, Number(process.env.NORTHFEN_RENDERS ?? 100)),
};

const chosen = process.argv.slice(2);
const unknown = chosen.filter((name) => !(name in ATTACKS));
if (unknown.length > 0) {
  console.error(`There is no attack ${unknown.join(', ')}. Choose from ${Object.keys(ATTACKS).join(', ')}.`);
  process.exit(2);
}
let failed = 0;
for (const name of chosen.length > 0 ? chosen : Object.keys(ATTACKS)) {
  console.log(`— ${name}`);
  const wrong = await ATTACKS[name]();
  for (const line of wrong) console.log(`  WRONG: ${line}`);
  failed += wrong.length;
}
console.log(failed === 0 ? 'Nothing was lost, hung or left.' : `${failed} things went wrong.`);
process.exit(failed === 0 ? 0 : 1);
