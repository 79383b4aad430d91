import { writeFile } from 'node:fs/promises';
import { resolve } from 'node:path';
import { mend as mendSetup } from '../core/repair/mend.ts';
import { writeSetupFile } from '../core/setup/file.ts';
import { printJson, printLines } from './print.ts';
import { loadSetup, today } from './setupFile.ts';

/**
 * Mends a setup file: the first remedy of the gravest cause, again and again, without giving up anything that is wanted.
 * @returns whether a stop-finding still stands
 */
export async function mend(path: string, options: { out: string; json?: boolean }): Promise<boolean> {
  const { setup, steps, stopStands } = mendSetup(await loadSetup(path), today());
  await writeFile(resolve(options.out), writeSetupFile(setup));
  if (options.json)
    printJson({
      out: options.out,
      stopStands,
      steps: steps.map(({ finding, remedy }) => ({
        finding,
        label: remedy.label,
        handwork: remedy.handwork,
        steps: remedy.edit.edit === 'batch' ? remedy.edit.edits : [remedy.edit],
        effects: remedy.changes,
      })),
    });
  else
    printLines([
      ...steps.flatMap(({ finding, remedy }) => [
        finding.message,
        `    ${remedy.label}`,
        ...remedy.handwork.map((step) => `        by hand: ${step}`),
        ...remedy.effects.map(({ text }) => `        ${text}`),
      ]),
      steps.length === 0
        ? 'There was nothing to mend.'
        : `${steps.length} ${steps.length === 1 ? 'step' : 'steps'}; written to ${options.out}.`,
      ...(stopStands
        ? ['Something still stands that no change mends without giving up what is wanted.']
        : []),
    ]);
  return stopStands;
}
