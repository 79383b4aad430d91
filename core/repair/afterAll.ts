import type { Finding } from '../findings/finding.ts';
import { reachWithoutAir } from '../reach/air.ts';
import { cellEdit, handlesOf } from '../reach/cell.ts';
import { type Destination, destinationsOf } from '../reach/destinations.ts';
import { reachOf } from '../reach/reach.ts';
import { nameOf, type SimpleEdit } from '../setup/edits.ts';
import { nearestGain, type Setup, type Source } from '../setup/schema.ts';
import { gainText, listed } from '../words/figures.ts';

/** A change of what is wanted, with what is lost by it, in words. */
interface AfterAll {
  label: string;
  edits: SimpleEdit[];
  givesUp: string[];
}

/** Returns what ends a finding because it is not wanted after all; never a remedy, since it changes what was wanted. */
export function afterAll(
  setup: Setup,
  { code, source: sourceId, destination: destinationId, detail }: Finding,
): AfterAll[] {
  const source = setup.sources.find(({ id }) => id === sourceId);
  const destination = destinationsOf(setup).find(({ id }) => id === destinationId);
  switch (code) {
    case 'missing':
    case 'swallowed':
      return source && destination ? [notWanted(setup, source.id, destination)] : [];
    case 'off-level':
      return source && destination ? [atThisLevel(setup, source.id, destination)] : [];
    case 'unwanted':
      return source && destination
        ? [wanted(setup, source.id, destination), ...closedWithOthers(setup, source, destination)]
        : [];
    case 'leak.live':
    case 'leak.vod':
    case 'in-file':
    case 'echo.party':
    case 'feedback':
      return source && destination ? closedWithOthers(setup, source, destination) : [];
    case 'no-own-track':
      return source
        ? [
            {
              label: `${source.name} needs no track of its own`,
              edits: [{ edit: 'updateSource', id: source.id, values: { ownTrack: false } }],
              givesUp: [`${source.name} cannot be edited by itself`],
            },
          ]
        : [];
    case 'leak.upload':
      return source && destination?.track?.purpose === 'publish'
        ? [
            ...closedWithOthers(setup, source, destination),
            {
              label: `“${destination.track.name}” is not for publishing`,
              edits: [{ edit: 'updateTrack', id: destination.track.id, values: { purpose: 'reference' } }],
              givesUp: [`nothing is left to upload from “${destination.track.name}”`],
            },
          ]
        : [];
    case 'uses':
      return detail === 'record-vod'
        ? [
            {
              label: 'The VOD need not be in the file',
              edits: [{ edit: 'setRecorder', values: { recordVod: false } }],
              givesUp: ['the VOD is not kept in the local file'],
            },
          ]
        : [];
    case 'fused':
      return together(setup, detail ?? '');
    default:
      return [];
  }
}

/** A source is closed at a destination together with what no control can tell apart from it, and what is wanted of that goes. */
function closedWithOthers(setup: Setup, source: Source, destination: Destination): AfterAll[] {
  const reach = reachWithoutAir(setup);
  // What comes through the air alone has no control that closes it.
  if (setup.air?.length && !reach.at(source.id, destination.id)) return [];
  const moved = new Set(handlesOf(setup, reach, source, destination).flatMap((handle) => handle.sources));
  moved.delete(source.id);
  const lost = [...moved].filter((id) =>
    setup.intent.some((wish) => wish.source === id && wish.destination === destination.id),
  );
  if (lost.length === 0) return [];
  const names = listed(
    lost.map((id) => nameOf(setup, id)),
    3,
  );
  const edit = cellEdit(setup, source.id, destination.id, null);
  return [
    {
      label: `Close ${source.name} at ${destination.name}, and ${names} with it`,
      edits: edit.edit === 'batch' ? edit.edits : [],
      givesUp: [`${names} ${lost.length === 1 ? 'is' : 'are'} not heard at ${destination.name}`],
    },
  ];
}

function notWanted(setup: Setup, source: string, destination: Destination): AfterAll {
  const name = nameOf(setup, source);
  return {
    label: `I do not want ${name} at ${destination.name}`,
    edits: [{ edit: 'setWish', source, destination: destination.id, gainDb: null }],
    givesUp: [`${name} is not heard at ${destination.name}`],
  };
}

function atThisLevel(setup: Setup, source: string, destination: Destination): AfterAll {
  const { label, edits } = wanted(setup, source, destination);
  const wish = setup.intent.find((one) => one.source === source && one.destination === destination.id);
  return {
    label: `${label} as loud as it is`,
    edits,
    givesUp: [`the level that you wanted (${gainText(wish?.gainDb ?? 0)} dB) is forgotten`],
  };
}

function wanted(setup: Setup, source: string, destination: Destination): AfterAll {
  const name = nameOf(setup, source);
  const gainDb = nearestGain(reachOf(setup, { source }).at(source, destination.id)?.gainDb ?? 0);
  return {
    label: `I do want ${name} at ${destination.name}`,
    edits: [{ edit: 'setWish', source, destination: destination.id, gainDb }],
    givesUp: [`${destination.name} keeps ${name}`],
  };
}

/** Sources that come by one pickup stay together: where not all of them are wanted, none is. */
function together(setup: Setup, pickup: string): AfterAll[] {
  const reach = reachWithoutAir(setup);
  const carried = reach.sourcesAt(pickup);
  const isWanted = (source: string, place: string) =>
    setup.intent.some((wish) => wish.source === source && wish.destination === place);
  const differing = reach.destinations.filter(
    ({ id }) => carried.some((one) => isWanted(one, id)) && !carried.every((one) => isWanted(one, id)),
  );
  if (differing.length === 0) return [];
  const names = listed(
    carried.map((id) => nameOf(setup, id)),
    3,
  );
  const places = listed(
    differing.map(({ name }) => name),
    3,
  );
  return [
    {
      label: `Keep ${names} together: remove all of them from ${places}`,
      edits: [
        ...setup.intent
          .filter(
            ({ source, destination }) =>
              carried.includes(source) && differing.some(({ id }) => id === destination),
          )
          .map(
            ({ source, destination }): SimpleEdit => ({ edit: 'setWish', source, destination, gainDb: null }),
          ),
        ...setup.sends
          .filter((send) => send.pickup === pickup && differing.some(({ sendTo }) => sendTo === send.to))
          .map(({ to }): SimpleEdit => ({ edit: 'setSend', pickup, to, gainDb: null })),
      ],
      givesUp: [`${places} ${differing.length === 1 ? 'gets' : 'get'} none of ${names}`],
    },
  ];
}
