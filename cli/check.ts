import { dirname, resolve } from 'node:path';
import type { Finding } from '../core/routing/finding.ts';
import { findingsOf } from '../core/routing/findings.ts';
import { remediesFor } from '../core/routing/remedies.ts';
import type { Setup } from '../core/setup/schema.ts';
import { findingsInSound } from './heard.ts';
import { printJson, printLines } from './print.ts';
import { findMedia, loadSetup, today } from './setupFile.ts';

/**
 * Prints the findings of a setup file: those of its routing, and, where its recordings are there, those in the sound.
 * @param options.sound false leaves the recordings alone
 * @returns whether a stop-finding stands
 */
export async function check(path: string, options: { json?: boolean; sound?: boolean; mediaAnywhere?: boolean }): Promise<boolean> {
  const setup = await loadSetup(path);
  const routing = findingsOf(setup, today());
  const known = new Set(routing.map(({ id }) => id));
  const heard = options.sound === false ? [] : await heardIn(setup, dirname(resolve(path)), options.mediaAnywhere);
  const findings = [...routing, ...heard.filter(({ id }) => !known.has(id))];
  if (options.json) printJson({ findings: findings.map(published) });
  else if (findings.length === 0)
    printLines(['No findings: everything arrives where it is wanted, and nowhere else.']);
  else {
    printLines(
      findings.flatMap((finding) => [
        `${finding.severity.padEnd(4)}  ${finding.code.padEnd(12)}  ${finding.message}`,
        ...(known.has(finding.id) ? remediesFor(setup, finding, today()) : []).map(
          (remedy) => `                    remedy: ${remedy.label}`,
        ),
      ]),
    );
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
