import { withHumCut } from '../processors/humCuts.ts';
import { PROCESSORS, type Processing } from '../processors/processing.ts';
import { pickupIdFor } from '../setup/ids.ts';
import { NO_WIRING, SETUP_VERSION, type Setup, type Source, type Track } from '../setup/schema.ts';
import { mediaOf, source, track } from './parts.ts';

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

/** Levels as somebody sets them who listens, and guesses: live and the VOD are too quiet, and the game is too loud in the headphones. */
const GUESSED: Record<string, Wanted> = {
  narrator: { friends: 0, live: 1.5, vod: 1.5, 'upload-mix': 1.5, voice: 0 },
  game: { headphones: -6, live: -10, vod: -10, 'upload-mix': -9, boat: 0 },
  bosun: { headphones: 0, live: -1, vod: -1, 'bosun-alone': 0 },
  wick: { headphones: 0, live: 0, vod: 0, 'wick-alone': 0 },
  reedbox: { headphones: -14, live: -16, records: 0 },
  bellbuoy: { headphones: -10, live: -8, vod: -8, 'upload-mix': -8 },
  quillpage: { headphones: -6, live: -8, vod: -8 },
  minnow: { headphones: -8, live: -9, vod: -9, 'upload-mix': -9 },
  pings: { headphones: -12 },
};

/** Levels of an evening on which nobody listened: at live and in the VOD the game is too loud, and the record drowns the voices. */
const LOUD: Record<string, Wanted> = {
  ...GUESSED,
  game: { ...GUESSED.game, live: -4, vod: -4 },
  reedbox: { ...GUESSED.reedbox, live: -9 },
};

/** The same, balanced: every audience gets −16 LUFS once a limiter holds the peaks, and the bed lies as far under the voices as {@link AIMS} says. */
const BALANCED: Record<string, Wanted> = {
  narrator: { friends: 0, live: 3.9, vod: 3.9, 'upload-mix': 5.5, voice: 0 },
  game: { headphones: -11.4, live: -11.5, vod: -12.4, 'upload-mix': -9.2, boat: 0 },
  bosun: { headphones: 0.5, live: 5.5, vod: 5.6, 'bosun-alone': 0 },
  wick: { headphones: 1.2, live: 6.4, vod: 6.4, 'wick-alone': 0 },
  reedbox: { headphones: -19.4, live: -17.5, records: 0 },
  bellbuoy: { headphones: -9.5, live: -5.7, vod: -5.6, 'upload-mix': -4 },
  quillpage: { headphones: -11.4, live: -9.5, vod: -10.4 },
  minnow: { headphones: -13.4, live: -10.5, vod: -11.4, 'upload-mix': -9.2 },
  pings: { headphones: -11.5 },
};

/** Ten LU leave some words of the friends buried. */
const AIMS: Setup['balance'] = [
  { destination: 'live', targetLufs: -16, bedLu: 15 },
  { destination: 'vod', targetLufs: -16, bedLu: 17 },
  { destination: 'upload-mix', targetLufs: -16, bedLu: 15 },
];

/** The weekly live run of Lock & Paddle, with levels by source. */
function regatta(
  name: string,
  levels: Record<string, Wanted>,
  {
    whole = {},
    ...own
  }: { whole?: Partial<Track>; narrator?: Partial<Source>; minnow?: Partial<Source> } = {},
): Setup {
  const kinds: Source[] = [
    source('narrator', 'Narrator', 'microphone', 'own', own.narrator),
    source('game', 'Lock & Paddle', 'game', 'own'),
    source('bosun', 'Bosun', 'voice chat', 'liveAndVod'),
    source('wick', 'Wick', 'voice chat', 'liveAndVod'),
    source('reedbox', 'Reedbox', 'music', 'liveOnly'),
    source('bellbuoy', 'Bellbuoy', 'alerts', 'own', { ownTrack: false }),
    source('quillpage', 'Quillpage', 'browser', 'liveAndVod', { ownTrack: false }),
    source('minnow', 'Minnow', 'handheld', 'own', { ownTrack: false, ...own.minnow }),
    source('pings', 'Boathouse pings', 'system', 'never'),
  ];
  return agreeing(
    name,
    8,
    [
      track('live-mix', 'Live mix', ['live'], 'reference', whole),
      track('vod-mix', 'VOD mix', ['vod', 'file'], 'reference', whole),
      track('upload-mix', 'Upload mix', ['file'], 'publish', whole),
      track('voice', 'Voice', ['file'], 'edit', { layout: 'mono' }),
      track('boat', 'Game', ['file'], 'edit'),
      track('bosun-alone', 'Bosun', ['file'], 'edit', { layout: 'mono' }),
      track('wick-alone', 'Wick', ['file'], 'edit', { layout: 'mono' }),
      track('records', 'Records', ['file'], 'edit'),
    ],
    kinds.map((one) => [one, levels[one.id]]),
    [HEADPHONES, FRIENDS, LIVE, VOD],
  );
}

/** The weekly live run of Lock & Paddle as it should be: no finding stands, and none is heard. */
export function regattaMadeRight(): Setup {
  const limiter: Processing = [{ ...PROCESSORS.limiter.initial, ceilingDbtp: -1 }];
  return {
    ...regatta('Regatta, made right', BALANCED, {
      whole: { processing: limiter },
      minnow: { processing: withHumCut([], 50) },
    }),
    balance: AIMS,
  };
}

/** The same run with levels that were guessed: nothing is wrong with who gets what. */
export function regattaGuessed(): Setup {
  return regatta('Regatta, levels guessed', GUESSED);
}

/**
 * The same run with the faults of an ordinary evening planted: the licensed record stays in the VOD, Wick has no
 * track, a friend is in the upload, pings go live, the members' bell does not reach the VOD, the game goes to
 * the friends; the game is too loud, the record drowns the voices, and the microphone hums.
 */
export function regattaWithFaults(): Setup {
  const right = regatta('Regatta evening', LOUD, { narrator: { media: mediaOf('hummingNarrator') } });
  const without = (pickup: string, to: string) => (send: Setup['sends'][number]) =>
    !(send.pickup === pickupIdFor(pickup) && send.to === to);
  const kept = right.sends.filter((send) => send.to !== 'wick-alone').filter(without('bellbuoy', 'vod-mix'));
  const add = (from: string, to: string, gainDb: number) => ({ pickup: pickupIdFor(from), to, gainDb });
  return {
    ...right,
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
