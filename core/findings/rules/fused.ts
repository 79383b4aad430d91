import { canPart } from '../../reach/fused.ts';
import { nameOf } from '../../setup/edits.ts';
import { listed } from '../../words/figures.ts';
import { type Finding, finding, placeName } from '../finding.ts';
import type { Survey } from '../survey.ts';

/** Sentences name as many sources at most. */
const MOST_NAMES = 3;

/** One finding for each pickup that brings sources which are wanted in different places. */
export function* fused(survey: Survey): Generator<Finding> {
  const { setup, reach } = survey;
  const names = (ids: string[]) =>
    listed(
      ids.map((id) => nameOf(setup, id)),
      MOST_NAMES,
    );
  for (const pickup of setup.pickups) {
    const carried = reach.sourcesAt(pickup.id);
    const differences = carried.length < 2 ? [] : differencesAt(survey, pickup.id, carried);
    const [first] = differences;
    if (!first) continue;
    const place = reach.graph.nodes[reach.graph.indexOf.get(pickup.id) as number].place;
    yield finding(
      'fused',
      'warn',
      () => {
        const are = (ids: string[]) => `${names(ids)} ${ids.length === 1 ? 'is' : 'are'}`;
        const others = differences.length - 1;
        const more = others > 0 ? ` The same at ${others} more ${others > 1 ? 'places' : 'place'}.` : '';
        return `${names(carried)} come by one pickup (${place}), so you cannot send one without the other: ${are(first.wanted)} wanted at ${placeName(first.place)}, ${are(first.not)} not.${more}`;
      },
      { source: first.wanted[0], destination: first.place.id, detail: pickup.id },
    );
  }
}

function differencesAt({ setup, reach, intent }: Survey, pickup: string, carried: string[]) {
  return reach.destinations.flatMap((destination) => {
    if (
      destination.track === null &&
      !setup.sends.some((one) => one.pickup === pickup && one.to === destination.id)
    )
      return [];
    const wanted = carried.filter((id) => intent.at(id, destination.id) !== null);
    const not = carried.filter((id) => intent.at(id, destination.id) === null);
    const together = wanted.filter((id) => not.some((other) => !canPart(setup, reach, id, other)));
    return together.length > 0 && not.length > 0 ? [{ place: destination, wanted: together, not }] : [];
  });
}
