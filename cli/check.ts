import { dirname, resolve } from 'node:path';
import type { Finding } from '../core/routing/finding.ts';
import { findingsOf } from '../core/routing/findings.ts';
import { remediesFor } from '../core/routing/remedies.ts';
import type { Setup } from '../core/setup/schema.ts';
import { findingsInSound } from './heard.ts';
import { printJson, printLines } from './print.ts';
import { findMedia, loadSetup, today } from './setupFile.ts';

/** A list of ten thousand findings must not take hours: remedies are looked for during this long (ms). */
const MOST_REMEDIES_MS = 10_000;

/**
 * Prints the findings of a setup file: those of its routing, and, where its recordings are there, those in the sound.
 * @param options.sound false leaves the recordings alone
 * @returns whether a stop-finding stands
 */
export async function check(
  path: string,
  options: { json?: boolean; sound?: boolean; mediaAnywhere?: boolean },
): Promise<boolean> {
  const setup = await loadSetup(path);
  const routing = findingsOf(setup, today());
  const known = new Set(routing.map(({ id }) => id));
  const heard =
    options.sound === false ? [] : await heardIn(setup, dirname(resolve(path)), options.mediaAnywhere);
  const findings = [...routing, ...heard.filter(({ id }) => !known.has(id))];
  if (options.json) printJson({ findings: findings.map(published) });
  else if (findings.length === 0)
    printLines(['No findings: everything arrives where it is wanted, and nowhere else.']);
  else {
    const started = Date.now();
    let without = 0;
    for (const finding of findings) {
      printLines([`${finding.severity.padEnd(4)}  ${finding.code.padEnd(12)}  ${finding.message}`]);
      if (!known.has(finding.id)) continue;
      if (Date.now() - started > MOST_REMEDIES_MS) without += 1;
      else
        printLines(
          remediesFor(setup, finding, today()).map((remedy) => `                    remedy: ${remedy.label}`),
        );
    }
    if (without > 0)
      printLines([
        `This setup is very large: remedies were looked for from the top, for ${MOST_REMEDIES_MS / 1000} seconds; ${without} findings are listed without.`,
      ]);
  }
  return findings.some((finding) => finding.severity === 'stop');
}

/** What is wrong in the sound; nothing, and a word about it, where a recording is missing. */
async function heardIn(setup: Setup, folder: string, anywhere?: boolean): Promise<Finding[]> {
  try {
    return await findingsInSound(setup, await findMedia(setup, folder, { anywhere }));
  } catch (error) {
    process.stderr.write(`northfen: the sound was not looked at: ${(error as Error).message}\n`);
    return [];
  }
}

function published({ code, severity, message, source, destination, paths }: Finding) {
  return { code, severity, message, source, destination, paths };
}
