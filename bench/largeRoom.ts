import type { SimpleEdit } from '../core/setup/edits.ts';
import { applyEdit } from '../core/setup/edits.ts';
import type { Setup } from '../core/setup/schema.ts';
import { roomOf } from '../core/testing/sketch.ts';

const MUSIC_EVERY = 7;
const kindOf = (i: number) => (i % MUSIC_EVERY === 0 ? ('music' as const) : ('game' as const));
const presetOf = (i: number) => (i % MUSIC_EVERY === 0 ? ('liveOnly' as const) : ('own' as const));

/** 40 sources on two machines, 12 devices, 6 mixes, 16 destinations and 4 scenes, as it should be. */
function largeRight(): Setup {
  const sources = Array.from({ length: 40 }, (_, i) => i);
  const isNear = (i: number) => i % 2 === 1;
  const apps = sources.filter((i) => isNear(i) && i % MUSIC_EVERY !== 0);
  const edit = Array.from({ length: 10 }, (_, i) => `edit-${i}`);
  return roomOf('Large', {
    recorder: 'b',
    machines: { a: { defaultOutput: 'a.main' }, b: { defaultOutput: 'b.main' } },
    devices: {
      'a.main': 'out',
      'a.game': 'virtual out',
      'a.music': 'virtual out',
      'a.line-1': 'out',
      'a.line-2': 'out',
      'a.phones': 'out',
      'b.main': 'out',
      'b.music': 'virtual out',
      'b.in-1': 'in',
      'b.in-2': 'in',
      'b.spare': 'virtual out',
      'b.chat': 'virtual out',
    },
    links: [
      ['a.line-1', 'b.in-1', 'usb'],
      ['a.line-2', 'b.in-2', 'usb'],
    ],
    mixes: {
      'games-over': { on: 'a', inputs: { 'a.game': 0 }, into: ['a.line-1'] },
      'music-over': { on: 'a', inputs: { 'a.music': 0 }, into: ['a.line-2'] },
      own: { on: 'a', inputs: { 'a.game': -6, 'a.music': -12 }, into: ['a.phones'] },
      spare: { on: 'a', inputs: { 'a.main': null }, into: ['a.phones'] },
      chat: { on: 'b', inputs: { 'b.main': -20 }, into: ['b.chat'] },
      other: { on: 'b', inputs: { 'b.spare': 0 }, into: ['b.main'] },
    },
    sources: sources.map((i) => {
      const device = isNear(i)
        ? i % MUSIC_EVERY === 0
          ? 'b.music'
          : 'b.main'
        : i % MUSIC_EVERY === 0
          ? 'a.music'
          : 'a.game';
      return [`s${i}`, `Source ${i}`, kindOf(i), presetOf(i), device, { ownTrack: false }];
    }),
    pickups: {
      games: { takes: 'b.in-1', to: { 'live-track': -8, 'vod-track': -8, upload: -8, 'edit-0': 0 } },
      music: { takes: 'b.in-2', to: { 'live-track': -16, 'edit-1': 0 } },
      records: { takes: 'b.music', to: { 'live-track': -16, 'edit-2': 0 } },
      ...Object.fromEntries(
        apps.map((i, at) => [
          `app-${i}`,
          {
            takes: `s${i}`,
            to: { 'live-track': -10, 'vod-track': -10, upload: -10, [edit[3 + (at % 7)]]: 0 },
            ...(at % 4 === 0 ? { scenes: ['race', 'break', 'end', 'start'] } : {}),
          },
        ]),
      ),
    },
    tracks: [
      ['live-track', ['live'], 'reference'],
      ['vod-track', ['vod', 'file'], 'reference'],
      ['upload', ['file'], 'publish'],
      ...edit.map((id): [string, ['file'], 'edit'] => [id, ['file'], 'edit']),
    ],
    headphones: ['a.phones'],
    friends: ['b.chat'],
    loudspeakers: ['b.spare'],
    scenes: ['race', 'break', 'end', 'start'],
  });
}

/** The same with nine things done wrong. */
export function largeWithFaults(): Setup {
  const faults: SimpleEdit[] = [
    { edit: 'setSend', pickup: 'music.pickup', to: 'vod-track', gainDb: -16 },
    { edit: 'updateMix', id: 'games-over', values: { into: ['a.phones'] } },
    { edit: 'updateSource', id: 's7', values: { into: 'b.main' } },
    { edit: 'updateSource', id: 's14', values: { volumePercent: 20 } },
    { edit: 'updateSource', id: 's3', values: { levelDb: -30 } },
    { edit: 'setMixInput', mix: 'own', from: 'a.music', values: { muted: true } },
    { edit: 'updatePickup', id: 'app-5.pickup', values: { scenes: ['race'] } },
    { edit: 'setSend', pickup: 'app-9.pickup', to: 'live-track', gainDb: null },
    { edit: 'setSend', pickup: 'records.pickup', to: 'upload', gainDb: -20 },
  ];
  return faults.reduce<Setup>(applyEdit, largeRight());
}
