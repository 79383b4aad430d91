import type { Finding } from '../findings/finding.ts';
import { type Destination, destinationsOf, trackLimitOf } from '../reach/destinations.ts';
import { channelWords } from '../reach/graph.ts';
import { knownReach } from '../reach/knownReach.ts';
import { channelCount, channelsOf } from '../setup/channels.ts';
import type { SimpleEdit } from '../setup/edits.ts';
import { newId } from '../setup/ids.ts';
import { nearestGain, type Pickup, type Setup, type Source, type Track } from '../setup/schema.ts';
import type { Candidate } from './candidate.ts';
import { levelMoves, trackUseMoves } from './moves.ts';

/** Returns what could be done about a finding, in the order in which a creator would rather do it. */
export function candidatesFor(setup: Setup, finding: Finding): Candidate[] {
  const source = setup.sources.find((one) => one.id === finding.source);
  const destination = destinationsOf(setup).find((one) => one.id === finding.destination);
  switch (finding.code) {
    case 'leak.live':
    case 'leak.vod':
    case 'leak.upload':
      return source && destination ? closing(setup, source, destination, finding.code) : [];
    case 'unwanted':
      return source && destination ? unwanted(setup, source, destination) : [];
    case 'missing':
      return source && destination ? missing(setup, source, destination) : [];
    case 'off-level':
      return source && destination ? levelMoves(setup, source, destination) : [];
    case 'no-own-track':
      return source ? ownTrack(setup, source) : [];
    case 'track-limit':
      return trackLimit(setup);
    case 'uses':
      return uses(setup, finding);
    default:
      return [];
  }
}

function closing(setup: Setup, source: Source, destination: Destination, code: Finding['code']): Candidate[] {
  const track = destination.track;
  if (!track) return [];
  const feed = feedLabel(destination);
  const keepWishes = closeSend(setup, source, track.id);
  const sharing = destinationsOf(setup).filter((one) => one.feedId === track.id);
  const dropHere = sharing.map((one) => setWish(source, one.id, null));
  const candidates: Candidate[] = [
    { label: `Close ${source.name} on ${feed}`, edits: [...keepWishes, ...dropHere] },
  ];
  if (track.uses.includes('live') && track.uses.includes('vod')) {
    candidates.unshift(splitVod(setup, source, track, code === 'leak.live' ? 'live' : 'vod'));
  }
  if (code === 'leak.upload' && track.purpose === 'publish') {
    candidates.push({
      label: `Keep ${feed} for reference only, not for publishing`,
      edits: [{ edit: 'updateTrack', id: track.id, values: { purpose: 'reference' } }],
    });
  }
  return candidates;
}

/** A track that is live and VOD at once becomes two, and the source stays on the one that it is cleared for. */
function splitVod(setup: Setup, source: Source, track: Track, leaking: 'live' | 'vod'): Candidate {
  const id = newId(setup, 'VOD mix');
  const vod = destinationsOf(setup).find((one) => one.kind === 'vod');
  const live = destinationsOf(setup).find((one) => one.kind === 'live');
  const carried = setup.sends.filter((send) => send.to === track.id);
  const pickups = new Set(pickupsOf(setup, source));
  const copies = carried
    .filter((send) => leaking === 'live' || !pickups.has(send.pickup))
    .map((send): SimpleEdit => ({ edit: 'setSend', pickup: send.pickup, to: id, gainDb: send.gainDb }));
  const leakingEnd = leaking === 'vod' ? vod : live;
  return {
    label: `Give the VOD a track of its own, ${leaking === 'vod' ? 'without' : 'with'} ${source.name}`,
    edits: [
      { edit: 'updateTrack', id: track.id, values: { uses: track.uses.filter((use) => use !== 'vod') } },
      {
        edit: 'addTrack',
        id,
        track: { ...withoutId(track), name: 'VOD mix', uses: track.uses.filter((use) => use !== 'live') },
      },
      ...copies,
      ...(leaking === 'live' ? closeSend(setup, source, track.id) : []),
      ...(leakingEnd ? [setWish(source, leakingEnd.id, null)] : []),
    ],
  };
}

function unwanted(setup: Setup, source: Source, destination: Destination): Candidate[] {
  if (destination.feedId === null) return [];
  const feedId = destination.feedId;
  const sharing = destinationsOf(setup).filter((one) => one.feedId === feedId);
  const send = setup.sends.find((one) => one.to === feedId && pickupsOf(setup, source).includes(one.pickup));
  const gainDb = nearestGain((send?.gainDb ?? 0) + source.levelDb);
  return [
    { label: `Close ${source.name} on ${feedLabel(destination)}`, edits: closeSend(setup, source, feedId) },
    {
      label: `Close ${source.name} on ${feedLabel(destination)} and no longer want it there`,
      edits: [...closeSend(setup, source, feedId), ...sharing.map((one) => setWish(source, one.id, null))],
    },
    {
      label: `It is meant to be there: want ${source.name} at ${destination.name}`,
      edits: [setWish(source, destination.id, gainDb)],
    },
  ];
}

function missing(setup: Setup, source: Source, destination: Destination): Candidate[] {
  const wish = setup.intent.find((one) => one.source === source.id && one.destination === destination.id);
  const pickup = pickupOf(setup, source);
  const wantedDb = wish?.gainDb ?? 0;
  const candidates: Candidate[] = [];
  if (pickup && destination.feedId !== null) {
    const feedId = destination.feedId;
    const gainDb = nearestGain(wantedDb - source.levelDb - pickup.gainDb);
    const open: SimpleEdit = { edit: 'setSend', pickup: pickup.id, to: feedId, gainDb };
    candidates.push({ label: `Open ${source.name} on ${feedLabel(destination)}`, edits: [open] });
    candidates.push({
      label: `Set the level of ${source.name} to 0 dB and open it on ${feedLabel(destination)}`,
      edits: [
        { edit: 'updateSource', id: source.id, values: { levelDb: 0 } },
        { edit: 'updatePickup', id: pickup.id, values: { gainDb: 0 } },
        { ...open, gainDb: 0 },
      ],
    });
  }
  if (destination.feedId === null && (destination.kind === 'live' || destination.kind === 'vod')) {
    candidates.push(...giveUse(setup, destination.kind));
  }
  candidates.push({
    label: `No longer want ${source.name} at ${destination.name}`,
    edits: [setWish(source, destination.id, null)],
  });
  return candidates;
}

function ownTrack(setup: Setup, source: Source): Candidate[] {
  const pickup = pickupOf(setup, source);
  if (!pickup) return [];
  const candidates: Candidate[] = [];
  const arrivesOn = new Set(setup.sends.filter((send) => send.pickup === pickup.id).map((send) => send.to));
  const editTracks = setup.tracks.filter((track) => track.purpose === 'edit' && track.uses.includes('file'));
  const occupants = (track: Track) =>
    setup.sends.filter((send) => send.to === track.id && send.pickup !== pickup.id);

  for (const track of editTracks.filter((one) => occupants(one).length === 0)) {
    candidates.push({
      label: `Put ${source.name} on the empty track “${track.name}”`,
      edits: [
        { edit: 'setSend', pickup: pickup.id, to: track.id, gainDb: 0 },
        setWish(source, track.id, source.levelDb),
      ],
    });
  }
  if (setup.tracks.length < trackLimitOf(setup)) {
    const id = newId(setup, source.name);
    const leave = editTracks
      .filter((track) => arrivesOn.has(track.id) && occupants(track).length > 0)
      .flatMap((track): SimpleEdit[] => [
        ...closeSend(setup, source, track.id),
        setWish(source, track.id, null),
      ]);
    candidates.push({
      label: `Add a track “${source.name}” for it alone`,
      edits: [
        {
          edit: 'addTrack',
          id,
          track: { name: source.name, uses: ['file'], purpose: 'edit', codec: 'pcm-s24', layout: 'stereo' },
        },
        { edit: 'setSend', pickup: pickup.id, to: id, gainDb: 0 },
        setWish(source, id, source.levelDb),
        ...leave,
      ],
    });
  }
  const shared = editTracks.filter((track) => arrivesOn.has(track.id) && occupants(track).length > 0);
  candidates.push(...shared.flatMap((track) => ownChannels(setup, source, pickup, track)));
  for (const track of editTracks.filter((one) => arrivesOn.has(one.id))) {
    const others = setup.sources.filter((other) =>
      occupants(track).some((send) => pickupsOf(setup, other).includes(send.pickup)),
    );
    candidates.push({
      label: `Keep “${track.name}” for ${source.name} alone`,
      edits: others.flatMap((other): SimpleEdit[] => [
        ...closeSend(setup, other, track.id),
        setWish(other, track.id, null),
      ]),
    });
  }
  candidates.push({
    label: `${source.name} needs no track of its own`,
    edits: [{ edit: 'updateSource', id: source.id, values: { ownTrack: false } }],
  });
  return candidates;
}

/** Moves a source to channels of its own on a track that it shares, if the track keeps channels apart and has room. */
function ownChannels(setup: Setup, source: Source, pickup: Pickup, track: Track): Candidate[] {
  const sends = setup.sends.filter((send) => send.to === track.id);
  const mine = sends.find((send) => send.pickup === pickup.id);
  const taken = sends.filter((send) => send !== mine).flatMap((send) => send.channels ?? [1, 2]);
  const first = [1, 3, 5, 7].find((one) => !taken.includes(one) && !taken.includes(one + 1));
  if (!mine || first === undefined || track.codec === 'aac' || track.codec === 'opus') return [];
  const channels = [first, first + 1];
  const count = Math.max(channelCount(track), first + 1);
  return [
    {
      label: `Give ${source.name} ${channelWords(channels)} of “${track.name}” for itself`,
      edits: [
        {
          edit: 'updateTrack',
          id: track.id,
          values: { layout: 'multichannel', channels: channelsOf(count, track.channels) },
        },
        { edit: 'setSend', pickup: pickup.id, to: track.id, gainDb: mine.gainDb, channels },
      ],
    },
  ];
}

function trackLimit(setup: Setup): Candidate[] {
  const empty = setup.tracks.filter((track) => !setup.sends.some((send) => send.to === track.id));
  const excess = setup.tracks.length - trackLimitOf(setup);
  const last = setup.tracks.slice(-excess);
  const remove = (tracks: Track[]) =>
    tracks.map((track): SimpleEdit => ({ edit: 'removeTrack', id: track.id }));
  const names = (tracks: Track[]) => tracks.map((track) => `“${track.name}”`).join(', ');
  return [
    ...(empty.length >= excess
      ? [
          {
            label: `Remove ${names(empty.slice(0, excess))}, which nothing reaches`,
            edits: remove(empty.slice(0, excess)),
          },
        ]
      : []),
    {
      label: `The recorder has ${setup.tracks.length} tracks: raise the limit`,
      edits:
        setup.tracks.length <= 32
          ? [{ edit: 'setRecorder', values: { trackLimit: setup.tracks.length } }]
          : remove(last),
    },
    { label: `Remove ${names(last)}`, edits: remove(last) },
  ];
}

function uses(setup: Setup, finding: Finding): Candidate[] {
  if (finding.id.endsWith(':record-vod')) return recordVod(setup);
  if (finding.id.endsWith(':idle')) {
    const id = finding.destination ?? '';
    return [
      { label: 'Record it in the file', edits: [{ edit: 'updateTrack', id, values: { uses: ['file'] } }] },
      { label: 'Remove the track', edits: [{ edit: 'removeTrack', id }] },
    ];
  }
  const use = finding.id.endsWith(':vod') ? 'vod' : 'live';
  const users = setup.tracks.filter((track) => track.uses.includes(use));
  if (users.length === 0)
    return [...trackUseMoves(setup, use), ...giveUse(setup, use), dropWishes(setup, use)];
  return users.map((keep) => ({
    label: `Let “${keep.name}” be the ${use === 'vod' ? 'VOD' : 'live'} track`,
    edits: users.filter((track) => track !== keep).map((track): SimpleEdit => withoutUse(track, use)),
  }));
}

function recordVod(setup: Setup): Candidate[] {
  const track = setup.tracks.find((one) => one.uses.includes('vod'));
  if (!track) return [];
  return [
    {
      label: `Record “${track.name}” in the file`,
      edits: [{ edit: 'updateTrack', id: track.id, values: { uses: [...track.uses, 'file'] } }],
    },
    {
      label: 'The VOD need not be in the file',
      edits: [{ edit: 'setRecorder', values: { recordVod: false } }],
    },
  ];
}

/** A track comes to feed live or VOD: one made for it with what is wanted there, or one that nothing uses. */
function giveUse(setup: Setup, use: 'live' | 'vod'): Candidate[] {
  const destination = setup.destinations.find((one) => one.kind === use);
  const name = use === 'live' ? 'Live mix' : 'VOD mix';
  const id = newId(setup, name);
  const opened = (feedId: string) =>
    setup.intent
      .filter((wish) => wish.destination === destination?.id)
      .flatMap((wish): SimpleEdit[] => {
        const source = setup.sources.find((one) => one.id === wish.source);
        const pickup = source && pickupOf(setup, source);
        if (!source || !pickup) return [];
        return [
          {
            edit: 'setSend',
            pickup: pickup.id,
            to: feedId,
            gainDb: nearestGain(wish.gainDb - source.levelDb - pickup.gainDb),
          },
        ];
      });
  const idle = setup.tracks.filter((track) => track.uses.length === 0);
  return [
    ...idle.map((track) => ({
      label: `Use “${track.name}” for it`,
      edits: [
        { edit: 'updateTrack', id: track.id, values: { uses: [use] } } as SimpleEdit,
        ...opened(track.id),
      ],
    })),
    {
      label: `Add a track “${name}” with what is wanted there`,
      edits: [
        {
          edit: 'addTrack',
          id,
          track: { name, uses: [use], purpose: 'reference', codec: 'pcm-s24', layout: 'stereo' },
        },
        ...opened(id),
      ],
    },
  ];
}

function dropWishes(setup: Setup, use: 'live' | 'vod'): Candidate {
  const destination = setup.destinations.find((one) => one.kind === use);
  const wishes = setup.intent.filter((wish) => wish.destination === destination?.id);
  return {
    label: `Want nothing at ${destination?.name ?? use}`,
    edits: wishes.map(
      (wish): SimpleEdit => ({
        edit: 'setWish',
        source: wish.source,
        destination: wish.destination,
        gainDb: null,
      }),
    ),
  };
}

function closeSend(setup: Setup, source: Source, feedId: string): SimpleEdit[] {
  return pickupsOf(setup, source).map(
    (pickup): SimpleEdit => ({ edit: 'setSend', pickup, to: feedId, gainDb: null }),
  );
}

function setWish(source: Source, destination: string, gainDb: number | null): SimpleEdit {
  return { edit: 'setWish', source: source.id, destination, gainDb };
}

function withoutUse(track: Track, use: 'live' | 'vod'): SimpleEdit {
  return { edit: 'updateTrack', id: track.id, values: { uses: track.uses.filter((one) => one !== use) } };
}

function withoutId({ id: _, ...rest }: Track): Omit<Track, 'id'> {
  return rest;
}

/** The pickups that carry a source, those that carry the fewest others first. */
function pickupsOf(setup: Setup, source: Source): string[] {
  const { sourcesAt } = knownReach(setup);
  return setup.pickups
    .map(({ id }) => ({ id, carried: sourcesAt(id) }))
    .filter(({ carried }) => carried.includes(source.id))
    .sort((a, b) => a.carried.length - b.carried.length)
    .map(({ id }) => id);
}

function pickupOf(setup: Setup, source: Source): Pickup | undefined {
  const [id] = pickupsOf(setup, source);
  return setup.pickups.find((pickup) => pickup.id === id);
}

function feedLabel(destination: Destination): string {
  return destination.track
    ? `track ${destination.trackNumber}, “${destination.track.name}”`
    : destination.name;
}
