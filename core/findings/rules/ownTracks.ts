import type { Destination } from '../../reach/destinations.ts';
import { type Arrival, AUDIBLE_DB, type Reach } from '../../reach/reach.ts';
import { isCleared } from '../../setup/clearance.ts';
import type { Source } from '../../setup/schema.ts';
import { listed } from '../../words/figures.ts';
import { type Finding, finding } from '../finding.ts';
import { editTracksOf, type Survey } from '../survey.ts';

/** A sentence names as many tracks and sources at most. */
const MOST_SHARED = 4;
const MOST_NAMED = 6;

/** A source may be edited, and is nowhere by itself. */
export function* ownTracks(survey: Survey): Generator<Finding> {
  const { setup, reach } = survey;
  const onEditTracks = new Map(
    editTracksOf(setup).map((track) => [track, setup.sources.filter(({ id }) => reach.at(id, track.id))]),
  );
  for (const source of setup.sources) {
    const found = noOwnTrack(survey, source, onEditTracks);
    if (found) yield found;
  }
}

function noOwnTrack(
  { reach, today }: Survey,
  source: Source,
  onEditTracks: Map<Destination, Source[]>,
): Finding | null {
  if (source.ownTrack === false || !isCleared(source.clearance, 'edit', today)) return null;
  const shared: { place: Destination; others: Source[]; arrival: Arrival }[] = [];
  for (const [place, sources] of onEditTracks) {
    const arrival = reach.at(source.id, place.id);
    if (!arrival || arrival.gainDb < AUDIBLE_DB) continue;
    const others = sources.filter((other) => other !== source && meet(reach, source, other, place));
    if (others.length === 0) return null;
    shared.push({ place, others, arrival });
  }
  const why = () =>
    shared.length === 0
      ? 'it is on no edit track'
      : shared
          .slice(0, MOST_SHARED)
          .map(({ place, others }) => `on “${place.name}” it is together with ${namesOf(others)}`)
          .join('; ') +
        (shared.length > MOST_SHARED ? `; and so on ${shared.length - MOST_SHARED} more` : '');
  return finding(
    'no-own-track',
    'warn',
    () => `${source.name} has no track of its own, so you cannot edit it by itself: ${why()}.`,
    { source: source.id, arrivals: shared.map(({ arrival }) => arrival) },
  );
}

/** Tells whether two sources share a channel of a track; on a mono or stereo track they always do. */
function meet(reach: Reach, one: Source, other: Source, { id, track }: Destination): boolean {
  if (track?.layout !== 'multichannel') return true;
  const [mine, theirs] = [one, other].map((source) => reach.at(source.id, id)?.channels ?? []);
  return mine.some((channel) => theirs.includes(channel));
}

function namesOf(sources: Source[]): string {
  return listed(
    sources.map(({ name }) => name),
    MOST_NAMED,
  );
}
