import { keysOf, type Processing } from '../processors/processing.ts';
import { roomsApart } from './airEdits.ts';
import { everyProcessing } from './bearers.ts';
import { brokenBitrates, brokenChannels } from './channels.ts';
import { NAMED_LISTS } from './ids.ts';
import type { Problem } from './problem.ts';
import { type Air, DEFAULT_DEVICE, type Setup, type Source } from './schema.ts';
import { brokenWiring } from './wiringRules.ts';

/**
 * Returns every cross-reference of the setup that does not hold (the schema has been met before): ids that are
 * used twice, references to a thing that is not there, and wiring that no machine could do.
 */
export function brokenRules(setup: Setup): Problem[] {
  return [
    ...duplicateIds(setup),
    ...brokenWiring(setup),
    ...brokenSends(setup),
    ...brokenChannels(setup),
    ...brokenBitrates(setup),
    ...brokenWishes(setup),
    ...brokenDestinations(setup),
    ...brokenBalance(setup),
    ...brokenKeys(setup),
    ...brokenAir(setup),
    ...brokenFaders(setup),
  ];
}

function duplicateIds(setup: Setup): Problem[] {
  const problems: Problem[] = [];
  const seen = new Map<string, string>([[DEFAULT_DEVICE, 'the machine’s default device']]);
  for (const list of [...NAMED_LISTS, 'groups'] as const) {
    setup[list]?.forEach(({ id }, index) => {
      const field = `${list}[${index}].id`;
      const first = seen.get(id);
      if (first)
        problems.push({
          field,
          rule: `the id "${id}" is already used by ${first}; give each thing an id of its own`,
        });
      else seen.set(id, field.replace('.id', ''));
    });
  }
  return problems;
}

function brokenSends(setup: Setup): Problem[] {
  const problems: Problem[] = [];
  const pickups = new Set(setup.pickups.map((pickup) => pickup.id));
  const feeds = feedIds(setup);
  const seen = new Set<string>();
  setup.sends.forEach((send, index) => {
    const field = `sends[${index}]`;
    if (!pickups.has(send.pickup))
      problems.push({ field: `${field}.pickup`, rule: `there is no pickup "${send.pickup}"` });
    if (!feeds.has(send.to)) {
      problems.push({
        field: `${field}.to`,
        rule: `there is no track, headphones or friends with the id "${send.to}"`,
      });
    }
    const pair = `${send.pickup} ${send.to}`;
    if (seen.has(pair))
      problems.push({ field, rule: `the pickup "${send.pickup}" already has a send to "${send.to}"` });
    seen.add(pair);
  });
  return problems;
}

function brokenWishes(setup: Setup): Problem[] {
  const problems: Problem[] = [];
  const sources = new Set(setup.sources.map((source) => source.id));
  const destinations = new Set([...setup.destinations, ...setup.tracks].map((place) => place.id));
  const seen = new Set<string>();
  setup.intent.forEach((wish, index) => {
    const field = `intent[${index}]`;
    if (!sources.has(wish.source))
      problems.push({ field: `${field}.source`, rule: `there is no source "${wish.source}"` });
    if (!destinations.has(wish.destination)) {
      problems.push({
        field: `${field}.destination`,
        rule: `there is no destination or track "${wish.destination}"`,
      });
    }
    const pair = `${wish.source} ${wish.destination}`;
    if (seen.has(pair))
      problems.push({ field, rule: `"${wish.source}" at "${wish.destination}" is listed twice` });
    seen.add(pair);
  });
  return problems;
}

function brokenBalance({ balance = [], destinations, tracks, sources }: Setup): Problem[] {
  const places = new Set([...destinations, ...tracks].map(({ id }) => id));
  const known = new Set(sources.map(({ id }) => id));
  return balance.flatMap(({ destination, wishes = {} }, index) => {
    const field = `balance[${index}]`;
    const problems: Problem[] = Object.keys(wishes)
      .filter((source) => !known.has(source))
      .map((source) => ({ field: `${field}.wishes`, rule: `there is no source "${source}"` }));
    if (!places.has(destination))
      problems.push({
        field: `${field}.destination`,
        rule: `there is no destination or track "${destination}"`,
      });
    if (balance.findIndex((one) => one.destination === destination) < index)
      problems.push({ field: `${field}.destination`, rule: `"${destination}" is listed twice` });
    return problems;
  });
}

/** Levels that move together do so in one group: a destination in two of them would move itself again. */
function brokenFaders({ linkedFaders = [], destinations, tracks }: Setup): Problem[] {
  const names = new Map([...tracks, ...destinations].map(({ id, name }) => [id, name]));
  const seen = new Set<string>();
  return linkedFaders.flatMap((group, at) =>
    group.flatMap((id): Problem[] => {
      const field = `linkedFaders[${at}]`;
      const isTwice = seen.has(id);
      seen.add(id);
      if (!names.has(id)) return [{ field, rule: `there is no destination or track "${id}"` }];
      return isTwice
        ? [
            {
              field,
              rule: `“${names.get(id)}” is linked twice, so that its levels would move each other in a circle; keep it in one group`,
            },
          ]
        : [];
    }),
  );
}

/** Duckings listen to another source that is there, and not round in a circle. */
function brokenKeys(setup: Setup): Problem[] {
  const sources = new Map(setup.sources.map((source) => [source.id, source]));
  const unknown = (field: string, processing: Processing = []) =>
    keysOf(processing)
      .filter((key) => !sources.has(key))
      .map((key) => ({ field: `${field}.processing`, rule: `there is no source "${key}" to duck under` }));
  return [
    ...everyProcessing(setup).flatMap(({ bearer, field, processing }): Problem[] => {
      const source = bearer.kind === 'source' ? sources.get(bearer.id) : undefined;
      const circle = source && circleFrom(source, sources);
      if (!source || !circle) return unknown(field, processing);
      const rule =
        circle.length === 1
          ? `${source.name} cannot duck under itself; choose another source to listen to`
          : `${circle.join(' ducks under ')} ducks under ${circle[0]}: that goes round in a circle; take one of them out`;
      return [{ field: `${field}.processing`, rule }];
    }),
  ];
}

/** The names of the sources that duck under each other, from one of them round to it again; null when it is in no circle. */
function circleFrom(start: Source, sources: Map<string, Source>): string[] | null {
  const seen = new Set<string>();
  const follow = (source: Source, trail: string[]): string[] | null => {
    for (const key of keysOf(source.processing ?? [])) {
      if (key === start.id) return trail;
      const next = sources.get(key);
      if (!next || seen.has(key)) continue;
      seen.add(key);
      const found = follow(next, [...trail, next.name]);
      if (found) return found;
    }
    return null;
  };
  return follow(start, [start.name]);
}

function brokenDestinations(setup: Setup): Problem[] {
  const repeated = (['live', 'vod'] as const).flatMap((kind) => {
    const found = setup.destinations.filter((destination) => destination.kind === kind);
    return found.length > 1
      ? [{ field: 'destinations', rule: `only one destination may be of the kind "${kind}"` }]
      : [];
  });
  const misplaced = setup.destinations.flatMap(({ kind, processing }, i) =>
    processing && (kind === 'live' || kind === 'vod')
      ? [
          {
            field: `destinations[${i}].processing`,
            rule: `${kind === 'live' ? 'live' : 'the VOD'} gets its track as it is; give the processing to the track`,
          },
        ]
      : [],
  );
  return [...repeated, ...misplaced];
}

/** Loudspeakers are heard by microphones, each pair once. */
function brokenAir(setup: Setup): Problem[] {
  const { air = [], sources, destinations } = setup;
  return air.flatMap((one, index): Problem[] => {
    const field = `air[${index}]`;
    const source = sources.find(({ id }) => id === one.source);
    const destination = destinations.find(({ id }) => id === one.destination);
    const repeated = air.findIndex(
      (other) => other.source === one.source && other.destination === one.destination,
    );
    return [
      ...(source ? [] : [{ field: `${field}.source`, rule: `there is no source "${one.source}"` }]),
      ...(source && source.kind !== 'microphone'
        ? [{ field: `${field}.source`, rule: `${source.name} is no microphone, and hears nothing in a room` }]
        : []),
      ...(destination
        ? []
        : [{ field: `${field}.destination`, rule: `there is no destination "${one.destination}"` }]),
      ...(destination && ['live', 'vod', 'friends'].includes(destination.kind)
        ? [
            {
              field: `${field}.destination`,
              rule: `${destination.name} sounds in no room of yours; choose loudspeakers`,
            },
          ]
        : []),
      ...wallBetween(setup, one, field),
      ...(one.gainDb > 0
        ? [{ field: `${field}.gainDb`, rule: 'air makes nothing louder; use 0 dB or less' }]
        : []),
      ...(repeated < index ? [{ field, rule: 'these two are listed twice' }] : []),
    ];
  });
}

function feedIds(setup: Setup): Set<string> {
  const listening = setup.destinations.filter(({ kind }) => kind !== 'live' && kind !== 'vod');
  return new Set([...listening, ...setup.tracks].map((feed) => feed.id));
}

/** Sound does not come from one room into another. */
function wallBetween(setup: Setup, { destination, source }: Air, field: string): Problem[] {
  const rooms = roomsApart(setup, destination, source);
  if (!rooms) return [];
  const name = (id: string) =>
    [...setup.destinations, ...setup.sources].find((one) => one.id === id)?.name ?? id;
  return [
    {
      field,
      rule: `“${name(destination)}” sounds in the room “${rooms.loudspeakers}”, and the microphone of ${name(source)} is in “${rooms.microphone}”: it does not hear it; take the two apart, or say that they are in one room`,
    },
  ];
}
