import { writeFile } from 'node:fs/promises';
import { dirname, resolve } from 'node:path';
import { type Balanced, balanceAll, balanceEdit } from '../core/balance/solve.ts';
import { staticMixes } from '../core/balance/sounds.ts';
import { reachOf } from '../core/routing/reach.ts';
import { applyEdit, nameOf } from '../core/setup/edits.ts';
import { writeSetupFile } from '../core/setup/file.ts';
import type { Setup } from '../core/setup/schema.ts';
import { measureCovariances } from '../server/media/covariances.ts';
import { measureEars } from '../server/media/measureEars.ts';
import { figure, printJson, printLines } from './print.ts';
import { findMedia, loadSetup } from './setupFile.ts';

/**
 * Solves the levels of every destination that has a target, or of one, and prints them with the figures before and after.
 * @param options.out where the setup with the new levels is written
 */
export async function balance(
  path: string,
  options: { json?: boolean; at?: string; out?: string },
): Promise<void> {
  const setup = await loadSetup(path);
  const results = await solveAll(setup, dirname(resolve(path)), options.at);
  if (options.out) {
    const edit = balanceEdit(setup, results, (id) => nameOf(setup, id));
    await writeFile(resolve(options.out), writeSetupFile(edit ? applyEdit(setup, edit) : setup));
  }
  if (options.json) {
    printJson({ destinations: results.map((result) => published(setup, result)) });
    return;
  }
  printLines(results.flatMap((result) => linesOf(setup, result)));
}

async function solveAll(setup: Setup, folder: string, at: string | undefined): Promise<Balanced[]> {
  const files = await findMedia(setup, folder);
  const reach = reachOf(setup);
  const { sources, sounds, mixes } = staticMixes(setup, reach);
  if (sounds.length === 0)
    throw new Error('no source has a recording that arrives anywhere, so there is nothing to balance.');
  const wanted = mixes.filter(
    ({ destination, gains }) =>
      gains.some((gain) => gain !== 0) &&
      (at ? destination.id === at : destination.kind !== 'file' || destination.targetLufs !== undefined),
  );
  if (at && wanted.length === 0)
    throw new Error(
      `nothing arrives at "${at}". Choose one of ${mixes.map(({ destination }) => destination.id).join(', ')}.`,
    );
  const covariances = await measureCovariances(
    sources.map(({ path: _, ...source }) => ({ ...source, file: files[source.id] })),
    sounds,
  );
  const ears = await measureEars(setup, files);
  const peaksDbtp = new Map(
    ears.flatMap(({ destinationId, truePeakDbtp }) =>
      truePeakDbtp === null ? [] : [[destinationId, truePeakDbtp] as const],
    ),
  );
  return balanceAll({ setup, reach, sounds, covariances, peaksDbtp }, wanted);
}

function published(
  setup: Setup,
  { destinationId, aim, proposals, before, after, expectedDbtp, obstacles }: Balanced,
) {
  return {
    id: destinationId,
    name: nameOf(setup, destinationId),
    aim,
    levels: proposals.map(({ sourceId, beforeDb, afterDb }) => ({ source: sourceId, beforeDb, afterDb })),
    before,
    after: { ...after, truePeakDbtp: expectedDbtp },
    obstacles,
  };
}

function linesOf(setup: Setup, { destinationId, proposals, before, after, obstacles }: Balanced): string[] {
  return [
    `${nameOf(setup, destinationId)}: ${figure(before.integratedLufs, 'LUFS')} → ${figure(after.integratedLufs, 'LUFS')}, bed ${figure(before.voiceOverBedLu, 'LU')} → ${figure(after.voiceOverBedLu, 'LU')} under the voices`,
    ...proposals.map(
      ({ sourceId, beforeDb, afterDb }) =>
        `  ${nameOf(setup, sourceId).padEnd(20)} ${figure(beforeDb, 'dB')} → ${figure(afterDb, 'dB')}`,
    ),
    ...obstacles.map((text) => `  ${text}`),
  ];
}
