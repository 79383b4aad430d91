import { pickupIdFor } from '../setup/ids.ts';
import { NO_WIRING, SETUP_VERSION, type Setup, type Source, type Track } from '../setup/schema.ts';
import { source, track } from './parts.ts';

/** A send of the demo by names that are easy to read: where to, and the total level wanted there in dB. */
type Wanted = Record<string, number>;

const HEADPHONES = { id: 'headphones', name: 'Own headphones', kind: 'headphones' } as const;
const FRIENDS = { id: 'friends', name: 'Friends in chat', kind: 'friends' } as const;
const LIVE = { id: 'live', name: 'Live', kind: 'live', targetLufs: -16 } as const;
const VOD = { id: 'vod', name: 'VOD', kind: 'vod', targetLufs: -16 } as const;

/** Builds a setup in which intent and sends agree: every source is sent just where it is wanted. */
function agreeing(
  name: string,
  trackLimit: number | undefined,
  tracks: Track[],
  parts: [source: Source, wanted: Wanted][],
  destinations: Setup['destinations'],
): Setup {
  const feedOf = (place: string) => {
    const use = place === 'live' || place === 'vod' ? place : null;
    return use ? (tracks.find((one) => one.uses.includes(use))?.id ?? place) : place;
  };
  return {
    format: 'northfen.setup',
    version: SETUP_VERSION,
    name,
    recorder: trackLimit === undefined ? {} : { trackLimit },
    ...NO_WIRING,
    sources: parts.map(([one]) => one),
    pickups: parts.map(([one]) => ({ id: pickupIdFor(one.id), takes: one.id, gainDb: 0 })),
    tracks,
    destinations,
    sends: parts.flatMap(([one, wanted]) =>
      Object.entries(wanted).map(([place, gainDb]) => ({
        pickup: pickupIdFor(one.id),
        to: feedOf(place),
        gainDb: gainDb - one.levelDb,
      })),
    ),
    intent: parts.flatMap(([one, wanted]) =>
      Object.entries(wanted).map(([place, gainDb]) => ({ source: one.id, destination: place, gainDb })),
    ),
  };
}

/** The weekly live run of Lock & Paddle as it should be: no finding stands. */
export function regattaMadeRight(): Setup {
  return agreeing(
    'Regatta, made right',
    8,
    [
      track('live-mix', 'Live mix', ['live'], 'reference'),
      track('vod-mix', 'VOD mix', ['vod', 'file'], 'reference'),
      track('upload-mix', 'Upload mix', ['file'], 'publish'),
      track('voice', 'Voice', ['file'], 'edit', { layout: 'mono' }),
      track('boat', 'Game', ['file'], 'edit'),
      track('bosun-alone', 'Bosun', ['file'], 'edit', { layout: 'mono' }),
      track('wick-alone', 'Wick', ['file'], 'edit', { layout: 'mono' }),
      track('records', 'Records', ['file'], 'edit'),
    ],
    [
      [
        source('narrator', 'Narrator', 'microphone', 'own'),
        { friends: 0, live: 1.5, vod: 1.5, 'upload-mix': 1.5, voice: 0 },
      ],
      [
        source('game', 'Lock & Paddle', 'game', 'own'),
        { headphones: -6, live: -10, vod: -10, 'upload-mix': -9, boat: 0 },
      ],
      [
        source('bosun', 'Bosun', 'voice chat', 'liveAndVod'),
        { headphones: 0, live: -1, vod: -1, 'bosun-alone': 0 },
      ],
      [
        source('wick', 'Wick', 'voice chat', 'liveAndVod'),
        { headphones: 0, live: 0, vod: 0, 'wick-alone': 0 },
      ],
      [source('reedbox', 'Reedbox', 'music', 'liveOnly'), { headphones: -14, live: -16, records: 0 }],
      [
        source('bellbuoy', 'Bellbuoy', 'alerts', 'own', { ownTrack: false }),
        { headphones: -10, live: -8, vod: -8, 'upload-mix': -8 },
      ],
      [
        source('quillpage', 'Quillpage', 'browser', 'liveAndVod', { ownTrack: false }),
        { headphones: -6, live: -8, vod: -8 },
      ],
      [
        source('minnow', 'Minnow', 'handheld', 'own', { ownTrack: false }),
        { headphones: -8, live: -9, vod: -9, 'upload-mix': -9 },
      ],
      [source('pings', 'Boathouse pings', 'system', 'never'), { headphones: -12 }],
    ],
    [HEADPHONES, FRIENDS, LIVE, VOD],
  );
}

/**
 * The same run with the faults of an ordinary evening planted: the licensed record stays in the VOD, Wick has no
 * track, a friend is in the upload, pings go live, the members' bell does not reach the VOD, and the game goes to
 * the friends.
 */
export function regattaWithFaults(): Setup {
  const right = regattaMadeRight();
  const without = (pickup: string, to: string) => (send: Setup['sends'][number]) =>
    !(send.pickup === pickupIdFor(pickup) && send.to === to);
  const kept = right.sends.filter((send) => send.to !== 'wick-alone').filter(without('bellbuoy', 'vod-mix'));
  const add = (from: string, to: string, gainDb: number) => ({ pickup: pickupIdFor(from), to, gainDb });
  return {
    ...right,
    name: 'Regatta evening',
    tracks: right.tracks.filter((one) => one.id !== 'wick-alone'),
    sends: [
      ...kept,
      add('reedbox', 'vod-mix', -16),
      add('pings', 'live-mix', -14),
      add('bosun', 'upload-mix', -6),
      add('game', 'friends', -12),
    ],
    intent: right.intent.filter((wish) => wish.destination !== 'wick-alone'),
  };
}

/** A plain voice-over: three sources, no friends, nothing live. */
export function voiceOver(): Setup {
  return agreeing(
    'Voice-over',
    undefined,
    [
      track('master', 'Upload mix', ['file'], 'publish'),
      track('voice', 'Voice', ['file'], 'edit', { layout: 'mono' }),
      track('boat', 'Game', ['file'], 'edit'),
      track('bell', 'Bell', ['file'], 'edit'),
    ],
    [
      [source('narrator', 'Narrator', 'microphone', 'own'), { master: 3, voice: 0 }],
      [source('game', 'Lock & Paddle', 'game', 'own'), { headphones: -6, master: -11, boat: 0 }],
      [source('bellbuoy', 'Bellbuoy', 'alerts', 'own'), { headphones: -10, master: -9, bell: 0 }],
    ],
    [HEADPHONES],
  );
}
