import { destinationsOf } from '../core/reach/destinations.ts';
import { type ReachCell, reachTableOf } from '../core/reach/reachTable.ts';
import type { Setup } from '../core/setup/schema.ts';
import { gainText } from '../core/words/figures.ts';
import { printJson, printLines } from './print.ts';
import { loadSetup } from './setupFile.ts';

/** Prints what reaches whom in a setup file, over all pickups and in each scene. */
export async function reach(path: string, options: { json?: boolean }): Promise<void> {
  const setup = await loadSetup(path);
  const table = reachTableOf(setup);
  if (options.json) {
    printJson(table);
    return;
  }
  printLines(linesOf(setup, table.cells));
  for (const { scene, cells } of table.scenes) {
    const name = setup.scenes.find(({ id }) => id === scene)?.name ?? scene;
    printLines(['', `In the scene “${name}”:`, ...linesOf(setup, cells)]);
  }
}

function linesOf(setup: Setup, cells: ReachCell[]): string[] {
  const destinations = destinationsOf(setup);
  const nameOf = (id: string) => [...setup.sources, ...destinations].find((one) => one.id === id)?.name ?? id;
  return cells.map(({ source, destination, gainDb, delayMs, copies, wantedDb }) => {
    const arrives =
      gainDb === null
        ? 'does not arrive'
        : `${gainText(gainDb)} dB${delayMs ? `, ${delayMs.toFixed(1)} ms late` : ''}${copies > 1 ? `, ${copies} copies` : ''}`;
    const wanted = wantedDb === null ? 'not wanted' : `wanted at ${gainText(wantedDb)} dB`;
    return `${nameOf(source)} at ${nameOf(destination)}: ${arrives} (${wanted})`;
  });
}
