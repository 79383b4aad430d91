import { openPairs } from '../../reach/air.ts';
import { airId } from '../../reach/graph.ts';
import { nameOf } from '../../setup/edits.ts';
import { listed } from '../../words/figures.ts';
import { type Finding, finding } from '../finding.ts';
import type { Survey } from '../survey.ts';

/** A sentence names as many sources at most. */
const MOST_NAMED = 4;

/** Loudspeakers play into an open microphone of their room. */
export function* openLoudspeakers({ setup, reach }: Survey): Generator<Finding> {
  for (const { destination, source, gainDb } of openPairs(setup, reach.graph)) {
    const heard = reach.sourcesAt(airId(destination, source));
    if (heard.length === 0) continue;
    const names = heard.map((id) => nameOf(setup, id));
    yield finding(
      'open-loudspeakers',
      'warn',
      () =>
        `The microphone of ${nameOf(setup, source)} hears ${nameOf(setup, destination)}, ${Math.abs(gainDb).toFixed(0)} dB quieter: ${listed(names, MOST_NAMED)} ${names.length === 1 ? 'is' : 'are'} in it.`,
      { source, detail: destination },
    );
  }
}
