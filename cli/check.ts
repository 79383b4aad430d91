import { dirname, resolve } from 'node:path';
import type { Finding } from '../core/findings/finding.ts';
import { findingsOf } from '../core/findings/findings.ts';
import { type Cause, causesOf } from '../core/repair/causes.ts';
import { remediesFor } from '../core/repair/remedies.ts';
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
  const remedies = new Remedies(setup, routing);
  const causes = causesOf(setup, today(), routing, () => remedies.isOver);
  const causeOf = new Map(causes.flatMap(({ finding, brings }) => brings.map(({ id }) => [id, finding.id])));
  if (options.json) {
    printJson({
      findings: findings.map((finding) => ({
        ...published(finding),
        cause: causeOf.get(finding.id) ?? finding.id,
        remedies: known.has(finding.id) ? (remedies.of(finding) ?? null) : [],
      })),
    });
  } else if (findings.length === 0)
    printLines(['No findings: everything arrives where it is wanted, and nowhere else.']);
  else
    printByCause(
      causes,
      findings.filter(({ id }) => !known.has(id)),
      remedies,
    );
  return findings.some((finding) => finding.severity === 'stop');
}

/** Prints each cause with its remedies and what it brings, then what is wrong in the sound. */
function printByCause(causes: Cause[], inSound: Finding[], remedies: Remedies): void {
  const line = ({ severity, code, message }: Finding) =>
    `${severity.padEnd(4)}  ${code.padEnd(12)}  ${message}`;
  let without = 0;
  for (const { finding, brings } of causes) {
    printLines([line(finding)]);
    const found = remedies.of(finding);
    if (!found) without += 1;
    else
      printLines(
        found.map(
          ({ label, givesUp }) =>
            `                    ${givesUp.length > 0 ? 'not wanted after all' : 'remedy'}: ${label}`,
        ),
      );
    printLines(brings.slice(1).map((one) => `      with it: ${line(one)}`));
  }
  printLines(inSound.map(line));
  if (without > 0)
    printLines([
      `This setup is very large: remedies were looked for from the top, for ${MOST_REMEDIES_MS / 1000} seconds; ${without} findings are listed without.`,
    ]);
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

function published({ id, code, severity, message, source, destination, paths }: Finding) {
  return { id, code, severity, message, source, destination, paths };
}

/** Looks for remedies as long as there is time: a list of ten thousand findings must not take hours. */
class Remedies {
  private readonly setup: Setup;
  private readonly findings: Finding[];
  private readonly started = Date.now();

  constructor(setup: Setup, findings: Finding[]) {
    this.setup = setup;
    this.findings = findings;
  }

  get isOver(): boolean {
    return Date.now() - this.started > MOST_REMEDIES_MS;
  }

  /** The remedies of a finding, the best first; null once the time is over. */
  of(finding: Finding) {
    if (this.isOver) return null;
    return remediesFor(this.setup, finding, today(), this.findings).map(
      ({ label, edit, handwork, findingsAfter, givesUp }) => ({
        label,
        handwork,
        steps: edit.edit === 'batch' ? edit.edits : [edit],
        effect: { findingsAfter },
        givesUp,
      }),
    );
  }
}
