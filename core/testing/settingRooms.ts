import { applyEdit, type SimpleEdit } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import { bySource } from './oneComputerRooms.ts';
import { bosun, edit, game, MIXES, narrator, ON_EVERY_MIX, reedbox } from './roomParts.ts';
import { roomOf, type Sketch, withWishes } from './sketch.ts';

/**
 * The computer's own settings give each app its output, and the apps leave the choice to it; a web studio takes a mix as its microphone.
 */
export const givenByTheComputer = roomOf('The computer gives each app its output', {
  recorder: 'boathouse',
  machines: { boathouse: { defaultOutput: 'boathouse.headset' } },
  devices: {
    'boathouse.headset': 'out',
    'boathouse.game': 'virtual out',
    'boathouse.call': 'virtual out',
    'boathouse.records': 'virtual out',
    'boathouse.studio': 'virtual out',
    'boathouse.mic': 'in',
  },
  together: { 'boathouse.mic': { follows: 'boathouse.headset', clockPpm: 40 } },
  mixes: {
    own: {
      on: 'boathouse',
      inputs: { 'boathouse.game': -6, 'boathouse.call': 0, 'boathouse.records': -20 },
      into: ['boathouse.headset'],
    },
    studio: {
      on: 'boathouse',
      inputs: { 'boathouse.mic': 0, 'boathouse.game': -12 },
      into: ['boathouse.studio'],
    },
  },
  sources: [
    narrator('boathouse.mic'),
    given(game('boathouse.game')),
    given(bosun('boathouse.call')),
    given(reedbox('boathouse.records')),
  ],
  pickups: {
    mic: { takes: 'boathouse.mic', to: ON_EVERY_MIX },
    game: { takes: 'boathouse.game', to: { 'live-mix': -10, 'vod-mix': -10, 'upload-mix': -10, boat: 0 } },
    call: { takes: 'boathouse.call', to: { 'live-mix': -3, 'vod-mix': -3, 'friends-alone': 0 } },
    records: { takes: 'boathouse.records', to: { 'live-mix': -16, music: 0 } },
  },
  tracks: [...MIXES, ...edit('voice', 'boat', 'friends-alone', 'music')],
  headphones: ['boathouse.headset'],
  friends: ['boathouse.mic'],
  studio: ['boathouse.studio'],
});

/** An app that leaves its output to its machine, which gives it the one that it named. */
function given(source: Sketch['sources'][number]): Sketch['sources'][number] {
  const [id, name, kind, preset, into, more] = source;
  return [
    id,
    name,
    kind,
    preset,
    'default',
    { ...more, machine: 'boathouse', machineInto: into ?? undefined },
  ];
}

/** Pickups go into scenes in groups, and one track carries voice, game and record on three channels. */
export const groupsAndChannels = withWishes(
  [
    { edit: 'addGroup', id: 'playing', group: { name: 'Playing', pickups: ['game.pickup', 'call.pickup'] } },
    { edit: 'updatePickup', id: 'game.pickup', clear: ['scenes'], values: {} },
    { edit: 'updatePickup', id: 'call.pickup', clear: ['scenes'], values: {} },
    { edit: 'updateScene', id: 'race', values: { groups: ['playing'] } },
    { edit: 'updateScene', id: 'break', values: { groups: ['playing'] } },
    {
      edit: 'addTrack',
      id: 'three',
      track: {
        name: 'three',
        uses: ['file'],
        purpose: 'edit',
        codec: 'pcm-s24',
        layout: 'multichannel',
        channels: [
          { fold: 'both', gainDb: 0 },
          { fold: 'both', gainDb: 0 },
          { fold: 'both', gainDb: 0 },
        ],
      },
    },
    { edit: 'setSend', pickup: 'mic.pickup', to: 'three', gainDb: 0, channels: [1] },
    { edit: 'setSend', pickup: 'game.pickup', to: 'three', gainDb: 0, channels: [2] },
    { edit: 'setSend', pickup: 'records.pickup', to: 'three', gainDb: 0, channels: [3] },
  ].reduce<Setup>((setup, edit) => applyEdit(setup, edit as SimpleEdit), {
    ...bySource,
    name: 'Groups in scenes, and a track of three channels',
  }),
);

const THREE_PAIRS = ['boathouse.wide', 'boathouse.wide-34', 'boathouse.wide-56'];

/** Game, call and record play into one cable of six channels, which one pickup takes whole: each stands apart on one track. */
export const wideCable = withWishes(
  [
    ...THREE_PAIRS.slice(1).map((id) => ({
      edit: 'updateDevice',
      id,
      values: { channelsOf: THREE_PAIRS[0] },
    })),
    {
      edit: 'addTrack',
      id: 'apart',
      track: {
        name: 'apart',
        uses: ['file'],
        purpose: 'edit',
        codec: 'pcm-s24',
        layout: 'multichannel',
        channels: Array.from({ length: 8 }, (_, at) => ({
          fold: at % 2 === 0 ? 'left' : 'right',
          gainDb: 0,
        })),
      },
    },
    {
      edit: 'addPickup',
      id: 'wide.pickup',
      pickup: { name: 'Wide cable', takes: THREE_PAIRS[0], pairs: 3, gainDb: 0 },
    },
    { edit: 'setSend', pickup: 'wide.pickup', to: 'apart', gainDb: 0, channels: [1, 2] },
    { edit: 'setSend', pickup: 'mic.pickup', to: 'apart', gainDb: 0, channels: [7, 8] },
  ].reduce<Setup>(
    (setup, edit) => applyEdit(setup, edit as SimpleEdit),
    roomOf('A cable of six channels', {
      recorder: 'boathouse',
      machines: { boathouse: { defaultOutput: 'boathouse.headset' } },
      devices: {
        'boathouse.headset': 'out',
        'boathouse.wide': 'virtual out',
        'boathouse.wide-34': 'virtual out',
        'boathouse.wide-56': 'virtual out',
        'boathouse.mic': 'in',
      },
      mixes: {
        own: {
          on: 'boathouse',
          inputs: { 'boathouse.wide': -6, 'boathouse.wide-34': 0, 'boathouse.wide-56': -20 },
          into: ['boathouse.headset'],
        },
      },
      sources: [
        narrator('boathouse.mic'),
        game('boathouse.wide'),
        bosun('boathouse.wide-34'),
        reedbox('boathouse.wide-56'),
      ],
      pickups: {
        mic: { takes: 'boathouse.mic', to: { 'live-mix': 0, 'vod-mix': 0, 'upload-mix': 0 } },
        game: { takes: 'boathouse.wide', to: { 'live-mix': -10, 'vod-mix': -10, 'upload-mix': -10 } },
        call: { takes: 'boathouse.wide-34', to: { 'live-mix': -3, 'vod-mix': -3 } },
        records: { takes: 'boathouse.wide-56', to: { 'live-mix': -16 } },
      },
      tracks: MIXES,
      headphones: ['boathouse.headset'],
      friends: ['boathouse.mic'],
    }),
  ),
);
