import { trackLimitOf } from '../../reach/destinations.ts';
import { channelWords } from '../../reach/graph.ts';
import { channelCount, channelsOf } from '../../setup/channels.ts';
import type { SimpleEdit } from '../../setup/edits.ts';
import { newId } from '../../setup/ids.ts';
import type { Track, TrackUse } from '../../setup/schema.ts';
import type { Candidate } from '../candidate.ts';
import type { Room } from '../room.ts';
import { inRange } from './opening.ts';

type OnAir = 'live' | 'vod';
const WORDS: Record<OnAir, string> = { live: 'live', vod: 'VOD' };

/** Another track becomes the live or the VOD one; the one that was it is then recorded in the file, if it is used for nothing else. */
export function trackUses(room: Room, use: OnAir): Candidate[] {
  const { tracks } = room.setup;
  const users = tracks.filter(({ uses }) => uses.includes(use));
  return tracks
    .filter((track) => users.length !== 1 || track !== users[0])
    .flatMap((track): Candidate[] => {
      const given = track.uses.includes(use) ? [] : [using(track, [...track.uses, use])];
      const taken = users.filter((one) => one !== track).map((one) => using(one, without(one.uses, use)));
      const kept = users
        .filter((one) => one !== track)
        .map((one) => using(one, orFile(without(one.uses, use))));
      const label = `Let “${track.name}” be the ${WORDS[use]} track`;
      const fault = `The ${WORDS[use]} track is not “${track.name}”`;
      const exchanged =
        users.length === 1 && !track.uses.includes(use) ? [exchange(users[0], track, use)] : [];
      const alone =
        track.uses.length > 0 && given.length > 0
          ? [{ label: `${label} and nothing else`, fault, edits: [using(track, [use]), ...kept] }]
          : [];
      return [
        { label, fault, edits: [...given, ...kept] },
        { label: `${label} alone`, fault, edits: [...given, ...taken] },
        ...alone,
        ...exchanged,
      ];
    })
    .filter(({ edits }) => edits.length > 0);
}

/**
 * The live track and the VOD track are exchanged. Where a track has the name of the use that it has, it is meant to have it, and nothing
 * is returned.
 */
export function exchangedOnAir({ setup }: Room): Candidate[] {
  const [live, vod] = (['live', 'vod'] as const).map((use) =>
    setup.tracks.filter(({ uses }) => uses.includes(use)),
  );
  const isCalled = ({ name }: Track, use: OnAir) => new RegExp(`\\b${use}\\b`, 'i').test(name);
  if (live.length !== 1 || vod.length !== 1 || live[0] === vod[0]) return [];
  if (isCalled(live[0], 'live') || isCalled(vod[0], 'vod')) return [];
  return [exchange(live[0], vod[0], 'live')];
}

function exchange(one: Track, other: Track, use: OnAir): Candidate {
  return {
    label: `Exchange the uses of “${one.name}” and “${other.name}”: “${other.name}” becomes the ${WORDS[use]} track`,
    fault: `The ${WORDS[use]} track is “${one.name}”, not “${other.name}”`,
    edits: [using(one, other.uses), using(other, one.uses)],
  };
}

function using(track: Track, uses: TrackUse[]): SimpleEdit {
  return { edit: 'updateTrack', id: track.id, values: { uses } };
}

function without(uses: TrackUse[], use: TrackUse): TrackUse[] {
  return uses.filter((one) => one !== use);
}

function orFile(uses: TrackUse[]): TrackUse[] {
  return uses.length > 0 ? uses : ['file'];
}

/** A track that is live and VOD at once becomes two, and the VOD gets those alone that are cleared for it. */
export function vodSplit(room: Room): Candidate[] {
  const { setup } = room;
  const track = setup.tracks.find(({ uses }) => uses.includes('live') && uses.includes('vod'));
  const vod = room.judged.destinations.find(({ kind }) => kind === 'vod');
  if (!track || !vod) return [];
  const id = newId(setup, 'VOD mix');
  const { id: _, ...rest } = track;
  const isMeant = (pickup: string) =>
    room.sourcesAt(pickup).every((source) => room.wishDb(source, vod) !== null);
  return [
    {
      label: 'Give the VOD a track of its own, with what is wanted there alone',
      fault: 'Live and the VOD are one track',
      edits: [
        using(track, without(track.uses, 'vod')),
        { edit: 'addTrack', id, track: { ...rest, name: 'VOD mix', uses: without(track.uses, 'live') } },
        ...setup.sends
          .filter((send) => send.to === track.id && isMeant(send.pickup))
          .map((send): SimpleEdit => ({ edit: 'setSend', pickup: send.pickup, to: id, gainDb: send.gainDb })),
      ],
    },
  ];
}

/** A track comes to feed live or the VOD with what is wanted there: one that nothing uses, or a new one. */
export function newUse(room: Room, use: OnAir): Candidate[] {
  const { setup } = room;
  const destination = room.judged.destinations.find(({ kind }) => kind === use);
  if (!destination || setup.tracks.some(({ uses }) => uses.includes(use))) return [];
  const name = use === 'live' ? 'Live mix' : 'VOD mix';
  const fault = `No track is the ${WORDS[use]} track`;
  const id = newId(setup, name);
  const opened = (sendTo: string) =>
    setup.pickups.flatMap((pickup): SimpleEdit[] => {
      for (const source of room.sourcesAt(pickup.id)) {
        const wishDb = room.wishDb(source, destination);
        const hereDb = room.gainAt(source, pickup.id);
        const gainDb = wishDb === null || hereDb === null ? null : inRange(wishDb - hereDb);
        if (gainDb !== null) return [{ edit: 'setSend', pickup: pickup.id, to: sendTo, gainDb }];
      }
      return [];
    });
  const idle = setup.tracks.filter((track) => track.uses.length === 0);
  return [
    ...idle.map((track) => ({
      label: `Let “${track.name}” be the ${WORDS[use]} track, with what is wanted there`,
      fault,
      edits: [using(track, [use]), ...opened(track.id)],
    })),
    {
      label: `Add a track “${name}” with what is wanted there`,
      fault,
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

/** Returns ways to an edit track of its own for a source, over the pickup that brings the fewest others. */
export function ownTracks(room: Room, sourceId: string): Candidate[] {
  const { setup } = room;
  const source = room.source(sourceId);
  const [pickup] = setup.pickups
    .filter(({ id }) => room.passes(sourceId, id))
    .sort((a, b) => room.sourcesAt(a.id).length - room.sourcesAt(b.id).length);
  if (!source || !pickup) return [];
  const editTracks = setup.tracks.filter(({ purpose, uses }) => purpose === 'edit' && uses.includes('file'));
  const sendsTo = (track: Track) => setup.sends.filter(({ to }) => to === track.id);
  const isOn = (track: Track) => sendsTo(track).some((send) => send.pickup === pickup.id);
  const others = (track: Track) => sendsTo(track).filter((send) => send.pickup !== pickup.id);
  const hereDb = room.gainAt(sourceId, pickup.id) ?? 0;
  const levelOn = (id: string) => {
    const destination = room.destination(id);
    return inRange((destination ? (room.wishDb(sourceId, destination) ?? 0) : 0) - hereDb) ?? 0;
  };
  const empty = editTracks
    .filter((track) => sendsTo(track).length === 0)
    .map(
      (track): Candidate => ({
        label: `Put ${source.name} on the empty track “${track.name}”`,
        fault: `Nothing is on the track “${track.name}”`,
        edits: [
          { edit: 'setSend', pickup: pickup.id, to: track.id, gainDb: levelOn(track.id) },
          ...wishOn(room, sourceId, track.id),
        ],
      }),
    );
  const shared = editTracks.filter((track) => isOn(track) && others(track).length > 0);
  const alone = shared.map(
    (track): Candidate => ({
      label: `Keep “${track.name}” for ${source.name} alone`,
      fault: `“${track.name}” has more than ${source.name} on it`,
      edits: others(track).map((send) => room.closeSend(send.pickup, track.id)),
    }),
  );
  const moved = shared.flatMap((track) =>
    empty.map(
      ({ label, edits }): Candidate => ({
        label: `${label}, and close it on “${track.name}”`,
        fault: `“${track.name}” has more than ${source.name} on it`,
        edits: [...edits, room.closeSend(pickup.id, track.id)],
      }),
    ),
  );
  const id = newId(setup, source.name);
  const fresh: Candidate[] =
    setup.tracks.length >= trackLimitOf(setup)
      ? []
      : [
          {
            label: `Add a track “${source.name}” for it alone`,
            fault: `The recorder has no track for ${source.name}`,
            edits: [
              {
                edit: 'addTrack',
                id,
                track: {
                  name: source.name,
                  uses: ['file'],
                  purpose: 'edit',
                  codec: 'pcm-s24',
                  layout: 'stereo',
                },
              },
              { edit: 'setSend', pickup: pickup.id, to: id, gainDb: inRange(source.levelDb - hereDb) ?? 0 },
              { edit: 'setWish', source: sourceId, destination: id, gainDb: source.levelDb },
            ],
          },
        ];
  return [
    ...alone,
    ...empty,
    ...moved,
    ...fresh,
    ...shared.flatMap((track) => ownChannels(room, sourceId, pickup.id, track)),
  ];
}

/** What comes to a track on which nobody was wanted is wanted there; a wish that stands is left as it is. */
function wishOn(room: Room, source: string, track: string): SimpleEdit[] {
  const { intent, sources } = room.setup;
  if (intent.some((wish) => wish.destination === track)) return [];
  const gainDb = sources.find(({ id }) => id === source)?.levelDb ?? 0;
  return [{ edit: 'setWish', source, destination: track, gainDb }];
}

/** Moves a source to channels of its own on a track that it shares, if the track keeps channels apart and has room. */
function ownChannels({ setup }: Room, sourceId: string, pickup: string, track: Track): Candidate[] {
  const sends = setup.sends.filter((send) => send.to === track.id);
  const mine = sends.find((send) => send.pickup === pickup);
  const taken = sends.filter((send) => send !== mine).flatMap((send) => send.channels ?? [1, 2]);
  const first = [1, 3, 5, 7].find((one) => !taken.includes(one) && !taken.includes(one + 1));
  if (!mine || first === undefined || track.codec === 'aac' || track.codec === 'opus') return [];
  const channels = [first, first + 1];
  const count = Math.max(channelCount(track), first + 1);
  return [
    {
      label: `Give ${setup.sources.find(({ id }) => id === sourceId)?.name} ${channelWords(channels)} of “${track.name}” for itself`,
      fault: `${setup.sources.find(({ id }) => id === sourceId)?.name} has no channels of its own on “${track.name}”`,
      edits: [
        {
          edit: 'updateTrack',
          id: track.id,
          values: { layout: 'multichannel', channels: channelsOf(count, track.channels) },
        },
        { edit: 'setSend', pickup, to: track.id, gainDb: mine.gainDb, channels },
      ],
    },
  ];
}

/** Tracks beyond what the recorder has: those that nothing reaches go, or the limit is another. */
export function trackLimit({ setup }: Room): Candidate[] {
  const many = setup.tracks.length - trackLimitOf(setup);
  if (many <= 0) return [];
  const empty = setup.tracks.filter(({ id }) => !setup.sends.some(({ to }) => to === id)).slice(0, many);
  const fault = `The setup has more tracks than the recorder: ${setup.tracks.length}, and it has ${trackLimitOf(setup)}`;
  const remove = (tracks: Track[]): Candidate => ({
    label: `Remove ${tracks.map(({ name }) => `“${name}”`).join(', ')}, which nothing reaches`,
    fault,
    edits: tracks.map(({ id }): SimpleEdit => ({ edit: 'removeTrack', id })),
  });
  const raise: Candidate = {
    label: `The recorder has ${setup.tracks.length} tracks: raise the limit`,
    fault,
    edits: [{ edit: 'setRecorder', values: { trackLimit: setup.tracks.length } }],
  };
  return [...(empty.length === many ? [remove(empty)] : []), ...(setup.tracks.length <= 32 ? [raise] : [])];
}

/** The VOD’s track is recorded as well; a track that is used for nothing is recorded, or goes. */
export function recorded({ setup }: Room, trackId: string | null): Candidate[] {
  return setup.tracks
    .filter(({ id, uses }) =>
      trackId === null ? uses.includes('vod') && !uses.includes('file') : id === trackId,
    )
    .flatMap((track): Candidate[] => {
      const fault = `“${track.name}” is not recorded in the file`;
      return [
        {
          label: `Record “${track.name}” in the file`,
          fault,
          edits: [using(track, [...track.uses, 'file'])],
        },
        ...(track.uses.length === 0
          ? [
              {
                label: `Remove the track “${track.name}”`,
                fault,
                edits: [{ edit: 'removeTrack', id: track.id } as SimpleEdit],
              },
            ]
          : []),
      ];
    });
}
