import { nameOf } from '../../setup/edits.ts';
import { listed } from '../../words/figures.ts';
import { type Finding, finding } from '../finding.ts';
import type { Survey } from '../survey.ts';

/** Somebody listens in on a mix, and it plays nowhere else meanwhile. */
export function* listeningIn({ setup }: Survey): Generator<Finding> {
  for (const { id, name, listenedOn, into } of setup.mixes) {
    if (listenedOn === undefined) continue;
    const kept = into.filter((device) => device !== listenedOn).map((device) => `“${nameOf(setup, device)}”`);
    const not = kept.length > 0 ? `, and not into ${listed(kept)}` : '';
    yield finding(
      'listening-in',
      'warn',
      () =>
        `You listen in on the mix “${name}”: meanwhile it plays into “${nameOf(setup, listenedOn)}” alone${not}.`,
      { detail: id },
    );
  }
}
