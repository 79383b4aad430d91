import type { Finding } from '../findings/finding.ts';
import { cellEdit, handlesOf } from '../reach/cell.ts';
import { knownReach } from '../reach/knownReach.ts';
import { nameOf, type SimpleEdit } from '../setup/edits.ts';
import type { Setup, Source } from '../setup/schema.ts';
import { listed } from '../setup/words.ts';
import type { Candidate } from './candidate.ts';

/**
 * Returns what ends a finding by giving something up that is wanted: a fused sound goes silent with another, a copy is
 * cut wherever it leads, a difference is no longer asked for. Offered when nothing gentler is left, and ranked last.
 */
export function lastResorts(setup: Setup, finding: Finding): Candidate[] {
  const source = setup.sources.find((one) => one.id === finding.source);
  switch (finding.code) {
    case 'leak.live':
    case 'leak.vod':
    case 'leak.upload':
    case 'unwanted':
    case 'echo.party':
      return source ? closeWithFused(setup, source, finding) : [];
    case 'feedback':
      return source ? closeWithFused(setup, source, finding) : cutLoops(setup);
    case 'doubled':
    case 'echo.self':
      return source ? keepOneWay(setup, source, finding) : [];
    case 'fused':
      return asOne(setup, finding);
    case 'no-own-track':
      return source
        ? [
            {
              label: `${source.name} needs no track of its own`,
              edits: [{ edit: 'updateSource', id: source.id, values: { ownTrack: false } }],
            },
          ]
        : [];
    case 'swallowed':
      return source
        ? [
            {
              label: `${source.name} need not be heard: leave its output unset`,
              edits: [
                { edit: 'updateSource', id: source.id, values: {}, clear: ['into'] },
                ...unwish(setup, [source.id], finding.destination === null ? null : [finding.destination]),
              ],
            },
          ]
        : [];
    default:
      return [];
  }
}

/** The source is closed at the destination, and so is what no control can tell apart from it. */
function closeWithFused(setup: Setup, source: Source, { destination }: Finding): Candidate[] {
  const reach = knownReach(setup);
  const place = reach.destinations.find((one) => one.id === destination);
  if (!place) return [];
  const moved = new Set(handlesOf(setup, reach, source, place).flatMap((handle) => handle.sources));
  moved.delete(source.id);
  const edit = cellEdit(setup, source.id, place.id, null);
  const others = [...moved].map((id) => nameOf(setup, id));
  return [
    {
      label: `Close ${source.name} at ${place.name}${others.length > 0 ? `, and ${listed(others, 3)} with it` : ''}`,
      edits: edit.edit === 'batch' ? edit.edits : [],
    },
  ];
}

/** Every leg at which a loop closes is taken away. */
function cutLoops(setup: Setup): Candidate[] {
  const { graph } = knownReach(setup);
  const closing = graph.edges.filter((edge) => edge.cut);
  const isClosing = (from: string, to: string) =>
    closing.some((edge) => graph.nodes[edge.from].id === from && graph.nodes[edge.to].id === to);
  const edits = closing.flatMap((edge): SimpleEdit[] => {
    const [from, to] = [graph.nodes[edge.from].id, graph.nodes[edge.to].id];
    if (edge.link) return [{ edit: 'removeLink', id: edge.link.id }];
    const mix = setup.mixes.find((one) => one.id === from);
    return setup.mixes.some((one) => one.id === to)
      ? [{ edit: 'setMixInput', mix: to, from, values: { muted: true } }]
      : mix
        ? [
            {
              edit: 'updateMix',
              id: mix.id,
              values: { into: mix.into.filter((id) => !isClosing(mix.id, id)) },
            },
          ]
        : [];
  });
  return [{ label: 'Cut every loop where it closes', edits }];
}

/** Every path but one is cut at its last control. */
function keepOneWay(setup: Setup, source: Source, { destination }: Finding): Candidate[] {
  const reach = knownReach(setup);
  const place = reach.destinations.find((one) => one.id === destination);
  if (!place) return [];
  const handles = handlesOf(setup, reach, source, place);
  return handles.map((kept) => ({
    label: `Keep the way over ${nameOf(setup, kept.from)} alone`,
    edits: handles
      .filter((one) => one !== kept)
      .map(
        ({ kind, from, to }): SimpleEdit =>
          kind === 'send'
            ? { edit: 'setSend', pickup: from, to, gainDb: null }
            : { edit: 'setMixInput', mix: to, from, values: { muted: true } },
      ),
  }));
}

/** What is fused is wanted nowhere that it is not wanted together. */
function asOne(setup: Setup, { detail }: Finding): Candidate[] {
  const reach = knownReach(setup);
  const carried = reach.sourcesAt(detail ?? '');
  const wanted = (source: string, place: string) =>
    setup.intent.some((wish) => wish.source === source && wish.destination === place);
  const differing = reach.destinations
    .filter(
      (place) => carried.some((id) => wanted(id, place.id)) && !carried.every((id) => wanted(id, place.id)),
    )
    .map((place) => place.id);
  return [
    {
      label: `Take ${listed(
        carried.map((id) => nameOf(setup, id)),
        3,
      )} as one: want none where not all are wanted`,
      edits: [
        ...unwish(setup, carried, differing),
        ...setup.sends
          .filter((send) => send.pickup === detail)
          .filter((send) =>
            reach.destinations.some((place) => place.feedId === send.to && differing.includes(place.id)),
          )
          .map((send): SimpleEdit => ({ edit: 'setSend', pickup: send.pickup, to: send.to, gainDb: null })),
      ],
    },
  ];
}

/** The edits that no longer want some sources at some places (all of them: null). */
function unwish(setup: Setup, sources: string[], places: string[] | null): SimpleEdit[] {
  return setup.intent
    .filter((wish) => sources.includes(wish.source) && (places === null || places.includes(wish.destination)))
    .map(
      (wish): SimpleEdit => ({
        edit: 'setWish',
        source: wish.source,
        destination: wish.destination,
        gainDb: null,
      }),
    );
}
