import type { Finding } from '../findings/finding.ts';
import type { Edit } from '../setup/edits.ts';
import { balancingRemedy, duckingRemedy, limitingRemedy } from './heard.ts';
import { recordingRemedy } from './recordings.ts';
import type { BalanceInput } from './solve.ts';
import type { StaticMix } from './sounds.ts';

/** What can be done about findings in the sound, in words, and what will still stand in the way. */
export interface HeardRemedy {
  label: string;
  edit: Edit;
  obstacles: string[];
}

/** Findings in the sound that have one cause, and what can be done about it. */
export interface HeardCause {
  brings: Finding[];
  remedies: HeardRemedy[];
}

/**
 * Groups findings in the sound: levels that are out of balance are one cause, peaks that clip in a mix another, and each recording has
 * its own.
 * @param input of the balance; null while it is not known, and then nothing can be done about levels
 */
export function heardCauses(
  input: BalanceInput | null,
  setup: BalanceInput['setup'],
  mixes: StaticMix[],
  findings: Finding[],
): HeardCause[] {
  const unbalanced = findings.filter(({ code }) => code === 'buried' || code === 'off-target');
  const placesOf = (group: Finding[]) => group.flatMap(({ destination }) => destination ?? []);
  const clipping = findings.filter(
    ({ code, destination, source }) =>
      code === 'clipping' &&
      source === null &&
      destination !== null &&
      !placesOf(unbalanced).includes(destination),
  );
  const others = findings.filter((one) => !unbalanced.includes(one) && !clipping.includes(one));
  const buried = placesOf(unbalanced.filter(({ code }) => code === 'buried'));
  const made = (...remedies: ({ label: string; edit: Edit; obstacles?: string[] } | null)[]): HeardRemedy[] =>
    remedies.flatMap((one) => (one ? [{ ...one, obstacles: one.obstacles ?? [] }] : []));
  return [
    {
      brings: unbalanced,
      remedies:
        input && unbalanced.length > 0
          ? made(
              balancingRemedy(input, mixes, placesOf(unbalanced)),
              buried.length > 0 ? duckingRemedy(input, mixes, buried) : null,
            )
          : [],
    },
    {
      brings: clipping,
      remedies: clipping.length > 0 ? made(limitingRemedy(setup, mixes, placesOf(clipping))) : [],
    },
    ...others.map((one) => ({ brings: [one], remedies: made(recordingRemedy(setup, one)) })),
  ].filter(({ brings }) => brings.length > 0);
}
