import { dirname, resolve } from 'node:path';
import type { HeardCause } from '../core/balance/heardCauses.ts';
import { partedByMeaning } from '../core/findings/accepted.ts';
import type { Finding } from '../core/findings/finding.ts';
import { findingsOf } from '../core/findings/findings.ts';
import { attempt } from '../core/repair/attempt.ts';
import { type Cause, causesOf } from '../core/repair/causes.ts';
import { changesOf } from '../core/repair/effects.ts';
import { handworkOf } from '../core/repair/handwork.ts';
import { Judge } from '../core/repair/judge.ts';
import type { Remedy } from '../core/repair/remedies.ts';
import type { Edit } from '../core/setup/edits.ts';
import type { Setup } from '../core/setup/schema.ts';
import { findingsInSound } from './heard.ts';
import { printJson, printLines } from './print.ts';
import { findMedia, loadSetup, today } from './setupFile.ts';

/** A list of ten thousand findings must not take hours: remedies are looked for during this long (ms). */
const MOST_REMEDIES_MS = 10_000;

/**
 * Prints the findings of a setup file by cause: those of its routing, and, where its recordings are there, those in the sound.
 * @param options.sound false leaves the recordings alone
 * @returns whether a stop-finding stands that is not meant to be so
 */
export async function check(
  path: string,
  options: { json?: boolean; sound?: boolean; mediaAnywhere?: boolean },
): Promise<boolean> {
  const setup = await loadSetup(path);
  const day = today();
  const routing = findingsOf(setup, day);
  const known = new Set(routing.map(({ id }) => id));
  const heard =
    options.sound === false ? [] : await heardIn(setup, dirname(resolve(path)), options.mediaAnywhere);
  const inSound = heard.flatMap(({ brings }) => brings).filter(({ id }) => !known.has(id));
  const { open, meant } = partedByMeaning(setup, [...routing, ...inSound]);
  const isOpen = new Set(open);
  const started = Date.now();
  const causes = causesOf(
    setup,
    day,
    routing.filter((one) => isOpen.has(one)),
    { isOver: () => Date.now() - started > MOST_REMEDIES_MS },
  );
  const heardLeft = heard
    .map((one) => ({ ...one, brings: one.brings.filter((each) => isOpen.has(each)) }))
    .filter(({ brings }) => brings.length > 0);
  if (options.json)
    printJson({
      findings: [...causes.flatMap(publishedCause), ...publishedHeard(setup, day, heardLeft)],
      causes: [...causes, ...heardLeft.map((one) => ({ ...one, name: null }))].map(({ name, brings }) => ({
        id: brings[0].id,
        name,
        severity: brings[0].severity,
        brings: brings.map(({ id }) => id),
      })),
      accepted: meant.map(({ finding, note }) => ({ ...published(finding), note: note ?? null })),
    });
  else printByCause(causes, heardLeft, meant.length);
  return open.some(({ severity }) => severity === 'stop');
}

/** Prints each cause with its remedies and what it brings, then what is wrong in the sound. */
function printByCause(causes: Cause[], heard: HeardCause[], meant: number): void {
  const line = ({ severity, code, message }: Finding) =>
    `${severity.padEnd(4)}  ${code.padEnd(12)}  ${message}`;
  const indented = '                    ';
  for (const { name, finding, brings, remedies, givingUp, whyNone } of causes) {
    printLines([
      line(finding),
      ...(name === null ? [] : [`${indented}cause: ${name}`]),
      ...remedies.map(({ label }) => `${indented}remedy: ${label}`),
      ...(whyNone === null ? [] : [`${indented}${WHY_NONE[whyNone]}`]),
      ...givingUp.map(({ label }) => `${indented}not wanted after all: ${label}`),
      ...brings.slice(1).map((one) => `      with it: ${line(one)}`),
    ]);
  }
  for (const { brings, remedies } of heard)
    printLines([...brings.map(line), ...remedies.map(({ label }) => `${indented}remedy: ${label}`)]);
  if (causes.length + heard.length === 0)
    printLines(['No findings: everything arrives where it is wanted, and nowhere else.']);
  if (meant > 0) printLines([`${meant} ${meant === 1 ? 'finding is' : 'findings are'} meant to be so.`]);
}

const WHY_NONE = {
  'others first': 'no remedy yet: mend the others first',
  'no change': 'no remedy: nothing that can be changed here mends it without giving up what is wanted',
  'not looked for': `no remedy was looked for: this setup is very large, and the search ends after ${MOST_REMEDIES_MS / 1000} seconds`,
} as const;

/** What is wrong in the sound; nothing, and a word about it, where a recording is missing. */
async function heardIn(setup: Setup, folder: string, anywhere?: boolean): Promise<HeardCause[]> {
  try {
    return await findingsInSound(setup, await findMedia(setup, folder, { anywhere }));
  } catch (error) {
    process.stderr.write(`northfen: the sound was not looked at: ${(error as Error).message}\n`);
    return [];
  }
}

function published({ id, code, severity, message, source, destination, scenes, paths }: Finding) {
  return { id, code, severity, message, source, destination, scenes, paths };
}

/** The findings of a cause, each with what mends the cause. */
function publishedCause({ finding, brings, remedies, givingUp, whyNone }: Cause) {
  const offered = whyNone === 'not looked for' ? null : remedies.map(publishedRemedy);
  const apart = givingUp.map(publishedRemedy);
  return brings.map((one) => ({
    ...published(one),
    cause: finding.id,
    remedies: offered,
    givingUp: one === finding ? apart : [],
    whyNone,
  }));
}

function publishedRemedy({ label, edit, handwork, givesUp, changes }: Remedy) {
  return { label, handwork, steps: stepsOf(edit), effects: changes, givesUp };
}

/** The findings in the sound, each with what mends its cause. */
function publishedHeard(setup: Setup, day: string, causes: HeardCause[]) {
  if (causes.length === 0) return [];
  const judge = new Judge(setup, day);
  return causes.flatMap(({ brings, remedies }) => {
    const offered = remedies.map(({ label, edit, obstacles }) => {
      const after = attempt(setup, edit);
      return {
        label,
        handwork: handworkOf(setup, edit),
        steps: stepsOf(edit),
        effects: after ? changesOf(judge.first, judge.judge(after, judge.first)) : [],
        givesUp: [],
        obstacles,
      };
    });
    const cause = brings[0].id;
    return brings.map((one) => ({
      ...published(one),
      cause,
      remedies: offered,
      givingUp: [],
      whyNone: null,
    }));
  });
}

function stepsOf(edit: Edit) {
  return edit.edit === 'batch' ? edit.edits : [edit];
}
