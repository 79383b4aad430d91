import { withKeys } from '../../../core/processors/processing.ts';
import { wholeOf } from '../../../core/reach/destinations.ts';
import { ownLegOf } from '../../../core/reach/onTheWay.ts';
import type { Reach } from '../../../core/reach/reach.ts';
import type { Bearer } from '../../../core/setup/bearers.ts';
import type { Setup, Source } from '../../../core/setup/schema.ts';
import { listed } from '../../../core/words/figures.ts';

/** Something that can be processed. */
export interface ProcessingPlace {
  /** Null where there is nothing that could bear it. */
  bearer: Bearer | null;
  label: string;
  /** Who gets it so. */
  note: string;
  /** The sources that it can duck under. */
  keys: Source[];
}

/** Somebody who listens. */
export interface NamedDestination {
  id: string;
  name: string;
}

/** A source can be processed for everybody, or on its way to one destination. */
export function placesOfSource(
  setup: Setup,
  reach: Reach,
  source: Source,
  at: NamedDestination,
): ProcessingPlace[] {
  const destination = reach.destinations.find(({ id }) => id === at.id);
  const leg = destination ? ownLegOf(setup, reach, source, destination) : null;
  const companions = [...(leg?.others ?? []), ...(leg?.behind ?? [])].map(({ name }) => name);
  const missing = reach.at(source.id, at.id)
    ? `It belongs to the source. No control on the way to ${at.name} could carry it alone.`
    : `It belongs to the source. It does not arrive at ${at.name}.`;
  return [
    {
      bearer: { kind: 'source', id: source.id },
      label: 'For everybody',
      note: leg ? 'It belongs to the source: everybody gets it so.' : missing,
      keys: setup.sources.filter(({ id }) => !withKeys(setup.sources, [id]).has(source.id)),
    },
    {
      bearer: leg && { kind: leg.handle.kind, from: leg.handle.from, to: leg.handle.to },
      label: `On its way to ${at.name} alone`,
      note: soGets(companions, 'the way is shared'),
      keys: setup.sources.filter(({ id }) => id !== source.id),
    },
  ];
}

/** Everything that somebody gets: the whole of a track, or of what is heard. */
export function placesOfDestination(setup: Setup, reach: Reach, at: NamedDestination): ProcessingPlace[] {
  const destination = reach.destinations.find(({ id }) => id === at.id);
  if (!destination) return [];
  const { track } = destination;
  const sharing = reach.destinations.filter(
    (one) => one !== destination && track !== null && one.sendTo === destination.sendTo,
  );
  const pairs = track?.layout === 'multichannel' ? ' Each pair of its channels is processed by itself.' : '';
  return [
    {
      bearer: wholeOf(destination),
      label: 'Everything together',
      note: `${soGets(
        sharing.map(({ name }) => name),
        'the track is shared',
      )}${pairs}`,
      keys: setup.sources,
    },
  ];
}

/** Everything that a mix or a pickup takes in. */
export function placesOfAll(
  setup: Setup,
  reach: Reach,
  bearer: { kind: 'mix' | 'pickup'; id: string },
): ProcessingPlace[] {
  const behind = reach.destinations.filter(({ id }) =>
    setup.sources.some((source) =>
      reach.at(source.id, id)?.places.some((places) => places.includes(bearer.id)),
    ),
  );
  return [
    {
      bearer,
      label: 'Everything together',
      note:
        behind.length > 0
          ? `It is heard at ${listed(
              behind.map(({ name }) => name),
              5,
            )}.`
          : 'Nobody hears it yet.',
      keys: setup.sources,
    },
  ];
}

function soGets(names: string[], because: string): string {
  if (names.length === 0) return 'Nobody else gets it so.';
  return `${listed(names)} ${names.length === 1 ? 'gets' : 'get'} the same: ${because}.`;
}
