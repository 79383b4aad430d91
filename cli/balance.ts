import { writeFile } from 'node:fs/promises';
import { dirname, resolve } from 'node:path';
import type { Balanced } from '../core/balance/solve.ts';
import { staticMixes } from '../core/balance/sounds.ts';
import { balanceVerified, type Verified } from '../core/balance/verified.ts';
import { reachOf } from '../core/reach/reach.ts';
import type { DestinationMeasures } from '../core/records.ts';
import { nameOf } from '../core/setup/edits.ts';
import { writeSetupFile } from '../core/setup/file.ts';
import type { Setup } from '../core/setup/schema.ts';
import { measureCovariances } from '../server/media/covariances.ts';
import { measureDestinations } from '../server/media/measureDestinations.ts';
import { figure, printJson, printLines } from './print.ts';
import { findMedia, loadSetup } from './setupFile.ts';

/**
 * Solves the levels of every destination that has a target, or of one, and prints them with the figures before and after, and those that a
 * render of them shows.
 * @param options.out where the setup with the new levels is written
 */
export async function balance(
  path: string,
  options: { json?: boolean; at?: string; out?: string; mediaAnywhere?: boolean },
): Promise<void> {
  const setup = await loadSetup(path);
  const solved = await solveAll(setup, dirname(resolve(path)), options);
  if (options.out) await writeFile(resolve(options.out), writeSetupFile(solved.setup));
  const measuredAt = (id: string) => solved.measured.find(({ destinationId }) => destinationId === id);
  if (options.json) {
    printJson({
      verified: solved.holds,
      destinations: solved.results.map((result) => ({
        ...published(setup, result),
        measured: figuresIn(measuredAt(result.destinationId)),
      })),
    });
    return;
  }
  printLines([
    ...solved.results.flatMap((result) => linesOf(setup, result, measuredAt(result.destinationId))),
    ...(solved.holds ? [] : ['A render does not show these figures within 0.5 LU.']),
  ]);
}

async function solveAll(
  setup: Setup,
  folder: string,
  { at, mediaAnywhere: anywhere }: { at?: string; mediaAnywhere?: boolean },
): Promise<Verified> {
  const files = await findMedia(setup, folder, { anywhere });
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
  const measures = await measureDestinations(setup, files);
  const peaksDbtp = new Map(
    measures.flatMap(({ destinationId, truePeakDbtp }) =>
      truePeakDbtp === null ? [] : [[destinationId, truePeakDbtp] as const],
    ),
  );
  return balanceVerified(
    { setup, reach, sounds, covariances, peaksDbtp },
    wanted,
    (id) => nameOf(setup, id),
    (_, after) => measureDestinations(after, files),
  );
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

function figuresIn(rendered: DestinationMeasures | undefined) {
  return rendered ? { integratedLufs: rendered.integratedLufs, truePeakDbtp: rendered.truePeakDbtp } : null;
}

function linesOf(
  setup: Setup,
  { destinationId, proposals, before, after, obstacles }: Balanced,
  rendered: DestinationMeasures | undefined,
): string[] {
  return [
    `${nameOf(setup, destinationId)}: ${figure(before.integratedLufs, 'LUFS')} → ${figure(after.integratedLufs, 'LUFS')}, bed ${figure(before.voiceOverBedLu, 'LU')} → ${figure(after.voiceOverBedLu, 'LU')} under the voices`,
    ...proposals.map(
      ({ sourceId, beforeDb, afterDb }) =>
        `  ${nameOf(setup, sourceId).padEnd(20)} ${figure(beforeDb, 'dB')} → ${figure(afterDb, 'dB')}`,
    ),
    `  in a render: ${figure(rendered?.integratedLufs ?? null, 'LUFS')}, true peak ${figure(rendered?.truePeakDbtp ?? null, 'dBTP')}`,
    ...obstacles.map((text) => `  ${text}`),
  ];
}
