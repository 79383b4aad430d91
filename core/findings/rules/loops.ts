import type { Destination } from '../../reach/destinations.ts';
import { MOST_PATHS } from '../../reach/waves.ts';
import type { Source } from '../../setup/schema.ts';
import { type Finding, finding, placeName } from '../finding.ts';
import { cellsOf, type Survey } from '../survey.ts';

/** Places that feed each other. */
export function* loops({ reach: { graph } }: Survey): Generator<Finding> {
  for (const loop of graph.loops)
    yield finding(
      'feedback',
      'stop',
      `A loop: ${[...loop, loop[0]].join(' → ')}. It would howl. Northfen cuts it where it closes, and lets nothing through there.`,
      { detail: loop.join('>').toLowerCase() },
    );
}

/** Wiring in which a sound has more paths than are written out; of all of them, the greatest number is told. */
export function* knots(survey: Survey): Generator<Finding> {
  let worst: { source: Source; destination: Destination; copies: number } | null = null;
  for (const { source, destination } of cellsOf(survey)) {
    const copies = survey.reach.at(source.id, destination.id)?.copies ?? 0;
    if (copies > Math.max(MOST_PATHS, worst?.copies ?? 0)) worst = { source, destination, copies };
  }
  if (!worst) return;
  const { source, destination, copies } = worst;
  yield finding(
    'knot',
    'note',
    `${source.name} reaches ${placeName(destination)} by ${copies.toLocaleString('en-GB')} paths. Northfen adds all of them up, but lists only the ${MOST_PATHS} loudest of each sound, and looks for remedies along those. Let fewer mixes feed each other.`,
    { source: source.id, destination: destination.id },
  );
}
