import { regattaMadeRight } from '../demo/setups.ts';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { planRoom, type RoomSource } from '../plan/room.ts';
import type { Setup } from '../setup/schema.ts';
import { roomOf, type Sketch } from './sketch.ts';

const VOICES = { app: 'Towline', ownTrack: false };
const MIXES: Sketch['tracks'] = [
  ['live-mix', ['live'], 'reference'],
  ['vod-mix', ['vod', 'file'], 'reference'],
  ['upload-mix', ['file'], 'publish'],
];
const edit = (...ids: string[]): Sketch['tracks'] => ids.map((id) => [id, ['file'], 'edit']);

/** Every app of one computer plays into a virtual device of its own; mixes on it bring them to the headphones and the viewers. */
const softDesk = roomOf('Soft desk', {
  recorder: 'boathouse',
  machines: { boathouse: { defaultOutput: 'boathouse.headset' } },
  devices: {
    'boathouse.headset': 'out',
    'boathouse.game': 'virtual out',
    'boathouse.call': 'virtual out',
    'boathouse.records': 'virtual out',
    'boathouse.system': 'virtual out',
    'boathouse.to-chat': 'virtual out',
    'boathouse.mic': 'in',
  },
  mixes: {
    monitor: {
      on: 'boathouse',
      inputs: {
        'boathouse.game': -6,
        'boathouse.call': 0,
        'boathouse.records': -12,
        'boathouse.system': -10,
        'boathouse.mic': null,
      },
      into: ['boathouse.headset'],
    },
    chat: {
      on: 'boathouse',
      inputs: { 'boathouse.mic': 0, 'boathouse.call': null, 'boathouse.records': null },
      into: ['boathouse.to-chat'],
    },
  },
  sources: [
    ['narrator', 'Narrator', 'microphone', 'own', 'boathouse.mic'],
    ['game', 'Lock & Paddle', 'game', 'own', 'boathouse.game'],
    ['bosun', 'Bosun', 'voice chat', 'liveAndVod', 'boathouse.call', VOICES],
    ['wick', 'Wick', 'voice chat', 'liveAndVod', 'boathouse.call', VOICES],
    ['reedbox', 'Reedbox', 'music', 'liveOnly', 'boathouse.records'],
    ['pings', 'Pings', 'system', 'never', 'boathouse.system'],
  ],
  pickups: {
    mic: { takes: 'boathouse.mic', to: { 'live-mix': 0, 'vod-mix': 0, 'upload-mix': 0, voice: 0 } },
    game: { takes: 'boathouse.game', to: { 'live-mix': -10, 'vod-mix': -10, 'upload-mix': -10, boat: 0 } },
    call: { takes: 'boathouse.call', to: { 'live-mix': -2, 'vod-mix': -2, 'friends-alone': 0 } },
    records: { takes: 'boathouse.records', to: { 'live-mix': -16, music: 0 } },
  },
  tracks: [...MIXES, ...edit('voice', 'boat', 'music', 'friends-alone')],
  headphones: ['boathouse.headset'],
  friends: ['boathouse.to-chat'],
});

/** Two computers without a desk: the game comes over HDMI, the call over the network, the microphone is plugged in twice. */
const twoNoDesk = roomOf('Two computers, no desk', {
  recorder: 'loft',
  machines: {
    boathouse: { defaultOutput: 'boathouse.hdmi' },
    loft: { defaultOutput: 'loft.speakers' },
  },
  devices: {
    'boathouse.hdmi': 'out',
    'boathouse.headset': 'out',
    'boathouse.call': 'virtual out',
    'boathouse.mic': 'in',
    'boathouse.mic-on': 'out',
    'loft.capture': 'in',
    'loft.call': 'virtual in',
    'loft.mic': 'in',
    'loft.speakers': 'out',
    'loft.records': 'virtual out',
  },
  links: [
    ['boathouse.hdmi', 'loft.capture', 'hdmi', { latencyMs: 40 }],
    ['boathouse.call', 'loft.call', 'network'],
    ['boathouse.mic-on', 'loft.mic', 'analogue'],
  ],
  mixes: {
    monitor: {
      on: 'boathouse',
      inputs: { 'boathouse.hdmi': -6, 'boathouse.call': 0 },
      into: ['boathouse.headset'],
    },
    'mic-copy': { on: 'boathouse', inputs: { 'boathouse.mic': 0 }, into: ['boathouse.mic-on'] },
  },
  sources: [
    ['narrator', 'Narrator', 'microphone', 'own', 'boathouse.mic'],
    ['game', 'Lock & Paddle', 'game', 'own', 'boathouse.hdmi'],
    ['bosun', 'Bosun', 'voice chat', 'liveAndVod', 'boathouse.call', VOICES],
    ['wick', 'Wick', 'voice chat', 'liveAndVod', 'boathouse.call', VOICES],
    ['reedbox', 'Reedbox', 'music', 'liveOnly', 'loft.records'],
    ['bellbuoy', 'Bellbuoy', 'alerts', 'own', null],
  ],
  pickups: {
    mic: { takes: 'loft.mic', to: { 'live-mix': 0, 'vod-mix': 0, 'upload-mix': 0, voice: 0 } },
    capture: { takes: 'loft.capture', to: { 'live-mix': -9, 'vod-mix': -9, 'upload-mix': -9, boat: 0 } },
    call: { takes: 'loft.call', to: { 'live-mix': -3, 'vod-mix': -3, 'friends-alone': 0 } },
    records: { takes: 'loft.records', to: { 'live-mix': -18, music: 0 } },
    bells: {
      takes: 'bellbuoy',
      to: { 'live-mix': -8, 'vod-mix': -8, 'upload-mix': -8 },
      scenes: ['race', 'break', 'end'],
    },
  },
  tracks: [...MIXES, ...edit('voice', 'boat', 'friends-alone', 'music')],
  headphones: ['boathouse.headset'],
  friends: ['boathouse.mic'],
  scenes: ['race', 'break', 'end'],
});

/** One computer: everything plays into the headset but the record, which a virtual cable takes aside. */
const virtualCable = roomOf('A virtual cable alone', {
  recorder: 'boathouse',
  machines: { boathouse: { defaultOutput: 'boathouse.headset' } },
  devices: {
    'boathouse.headset': 'out',
    'boathouse.cable': 'virtual out',
    'boathouse.mic': 'in',
    'boathouse.monitor-screen': 'out',
  },
  mixes: {
    'cable-to-ears': {
      on: 'boathouse',
      inputs: { 'boathouse.cable': -10 },
      into: ['boathouse.monitor-screen'],
    },
  },
  sources: [
    ['narrator', 'Narrator', 'microphone', 'own', 'boathouse.mic'],
    ['game', 'Lock & Paddle', 'game', 'own', 'boathouse.headset'],
    ['bellbuoy', 'Bellbuoy', 'alerts', 'own', 'boathouse.headset', { ownTrack: false }],
    ['reedbox', 'Reedbox', 'music', 'liveOnly', 'boathouse.cable'],
  ],
  pickups: {
    mic: { takes: 'boathouse.mic', to: { 'live-mix': 0, 'vod-mix': 0, 'upload-mix': 0, voice: 0 } },
    desktop: {
      takes: 'boathouse.headset',
      to: { 'live-mix': -10, 'vod-mix': -10, 'upload-mix': -10, desktop: 0 },
    },
    records: { takes: 'boathouse.cable', to: { 'live-mix': -18, music: 0 } },
  },
  tracks: [...MIXES, ...edit('voice', 'desktop', 'music')],
  headphones: ['boathouse.headset', 'boathouse.monitor-screen'],
});
/** A desk between microphone, game and call; one feed to the recorder has the voice, a second one everything for the viewers. */
const deskSecondFeed = roomOf('A desk with a second feed', {
  recorder: 'boathouse',
  machines: {
    boathouse: { defaultOutput: 'boathouse.desk-game' },
    sluicebox: { kind: 'desk', handovers: 2 },
  },
  devices: {
    'boathouse.desk-game': 'out',
    'boathouse.desk-call': 'out',
    'boathouse.records': 'virtual out',
    'boathouse.feed-1': 'in',
    'boathouse.feed-2': 'in',
    'sluicebox.mic': 'in',
    'sluicebox.game': 'in',
    'sluicebox.call': 'in',
    'sluicebox.phones': 'out',
    'sluicebox.feed-1': 'out',
    'sluicebox.feed-2': 'out',
  },
  links: [
    ['boathouse.desk-game', 'sluicebox.game', 'usb'],
    ['boathouse.desk-call', 'sluicebox.call', 'usb'],
    ['sluicebox.feed-1', 'boathouse.feed-1', 'usb'],
    ['sluicebox.feed-2', 'boathouse.feed-2', 'usb'],
  ],
  mixes: {
    phones: {
      on: 'sluicebox',
      inputs: { 'sluicebox.mic': null, 'sluicebox.game': -8, 'sluicebox.call': 0 },
      into: ['sluicebox.phones'],
    },
    'voice-feed': {
      on: 'sluicebox',
      inputs: { 'sluicebox.mic': 0, 'sluicebox.game': null },
      into: ['sluicebox.feed-1'],
    },
    'viewers-feed': {
      on: 'sluicebox',
      inputs: { 'sluicebox.mic': 0, 'sluicebox.game': -10, 'sluicebox.call': -4 },
      into: ['sluicebox.feed-2'],
    },
  },
  sources: [
    ['narrator', 'Narrator', 'microphone', 'own', 'sluicebox.mic'],
    ['game', 'Lock & Paddle', 'game', 'own', 'boathouse.desk-game'],
    ['bosun', 'Bosun', 'voice chat', 'liveAndVod', 'boathouse.desk-call', VOICES],
    ['wick', 'Wick', 'voice chat', 'liveAndVod', 'boathouse.desk-call', VOICES],
    ['reedbox', 'Reedbox', 'music', 'liveOnly', 'boathouse.records'],
  ],
  pickups: {
    voice: { takes: 'boathouse.feed-1', to: { 'upload-mix': 0, voice: 0 } },
    viewers: { takes: 'boathouse.feed-2', to: { 'live-mix': 0, 'vod-mix': 0 } },
    game: { takes: 'boathouse.desk-game', to: { 'upload-mix': -10, boat: 0 } },
    records: { takes: 'boathouse.records', to: { 'live-mix': -16, music: 0 } },
  },
  tracks: [...MIXES, ...edit('voice', 'boat', 'music')],
  headphones: ['sluicebox.phones'],
  friends: ['boathouse.feed-1'],
});

/** A desk hands over one finished mix for live; its parts come by app pickups, for the VOD and the edit. */
const splitMix = roomOf('One finished mix, split back', {
  recorder: 'loft',
  machines: {
    boathouse: { defaultOutput: 'boathouse.desk' },
    loft: { defaultOutput: 'loft.speakers' },
    sluicebox: { kind: 'desk', handovers: 1 },
  },
  devices: {
    'boathouse.desk': 'out',
    'boathouse.hdmi': 'out',
    'loft.speakers': 'out',
    'loft.records': 'virtual out',
    'loft.to-desk': 'out',
    'loft.desk': 'in',
    'loft.capture': 'in',
    'loft.mic': 'in',
    'sluicebox.mic': 'in',
    'sluicebox.game': 'in',
    'sluicebox.records': 'in',
    'sluicebox.phones': 'out',
    'sluicebox.main': 'out',
  },
  links: [
    ['boathouse.desk', 'sluicebox.game', 'usb'],
    ['boathouse.hdmi', 'loft.capture', 'hdmi', { latencyMs: 40 }],
    ['loft.to-desk', 'sluicebox.records', 'usb'],
    ['sluicebox.main', 'loft.desk', 'usb'],
  ],
  mixes: {
    'game-copy': { on: 'boathouse', inputs: { 'boathouse.desk': 0 }, into: ['boathouse.hdmi'] },
    'records-on': { on: 'loft', inputs: { 'loft.records': 0 }, into: ['loft.to-desk'] },
    main: {
      on: 'sluicebox',
      inputs: { 'sluicebox.mic': 0, 'sluicebox.game': -9, 'sluicebox.records': -16 },
      into: ['sluicebox.main'],
    },
    phones: {
      on: 'sluicebox',
      inputs: { 'sluicebox.game': -4, 'sluicebox.records': -12 },
      into: ['sluicebox.phones'],
    },
  },
  sources: [
    ['narrator', 'Narrator', 'microphone', 'own', 'sluicebox.mic', { ownTrack: false }],
    ['game', 'Lock & Paddle', 'game', 'own', 'boathouse.desk'],
    ['reedbox', 'Reedbox', 'music', 'liveOnly', 'loft.records'],
    ['bellbuoy', 'Bellbuoy', 'alerts', 'own', null, { ownTrack: false }],
  ],
  pickups: {
    finished: { takes: 'loft.desk', to: { 'live-mix': 0 } },
    capture: { takes: 'loft.capture', to: { 'vod-mix': -9, 'upload-mix': -9, boat: 0 } },
    records: { takes: 'loft.records', to: { music: 0 } },
    bells: { takes: 'bellbuoy', to: { 'live-mix': -8, 'vod-mix': -8 } },
  },
  tracks: [...MIXES, ...edit('boat', 'music')],
  headphones: ['sluicebox.phones'],
});

/** One mix for the creator and one for the viewers, on one computer; each app is also picked up for a track of its own. */
const ownAndViewers = roomOf('Own mix and viewers’ mix', {
  recorder: 'boathouse',
  machines: { boathouse: { defaultOutput: 'boathouse.headset' } },
  devices: {
    'boathouse.headset': 'out',
    'boathouse.game': 'virtual out',
    'boathouse.call': 'virtual out',
    'boathouse.records': 'virtual out',
    'boathouse.viewers': 'virtual out',
    'boathouse.mic': 'in',
  },
  mixes: {
    own: {
      on: 'boathouse',
      inputs: { 'boathouse.game': -3, 'boathouse.call': 0, 'boathouse.records': -20 },
      into: ['boathouse.headset'],
    },
    viewers: {
      on: 'boathouse',
      inputs: { 'boathouse.game': -11, 'boathouse.call': -3, 'boathouse.mic': 0 },
      into: ['boathouse.viewers'],
    },
  },
  sources: [
    ['narrator', 'Narrator', 'microphone', 'own', 'boathouse.mic'],
    ['game', 'Lock & Paddle', 'game', 'own', 'boathouse.game'],
    ['bosun', 'Bosun', 'voice chat', 'liveAndVod', 'boathouse.call'],
    ['reedbox', 'Reedbox', 'music', 'liveOnly', 'boathouse.records'],
  ],
  pickups: {
    viewers: { takes: 'boathouse.viewers', to: { 'live-mix': 0, 'vod-mix': 0 } },
    game: { takes: 'boathouse.game', to: { boat: 0, 'upload-mix': -11 } },
    call: { takes: 'boathouse.call', to: { 'friends-alone': 0 } },
    mic: { takes: 'boathouse.mic', to: { voice: 0, 'upload-mix': 0 } },
    records: { takes: 'boathouse.records', to: { 'live-mix': -18, music: 0 } },
  },
  tracks: [...MIXES, ...edit('voice', 'boat', 'friends-alone', 'music')],
  headphones: ['boathouse.headset'],
  friends: ['boathouse.mic'],
});

/** A track for each source, and one for live that is recorded as well; apps are taken by themselves, with three scenes. */
const bySource = roomOf('Tracks by source, one for live', {
  recorder: 'boathouse',
  machines: { boathouse: { defaultOutput: 'boathouse.headset' } },
  devices: { 'boathouse.headset': 'out', 'boathouse.speakers': 'out', 'boathouse.mic': 'in' },
  sources: [
    ['narrator', 'Narrator', 'microphone', 'own', 'boathouse.mic'],
    ['game', 'Lock & Paddle', 'game', 'own', 'boathouse.headset'],
    ['bosun', 'Bosun', 'voice chat', 'liveAndVod', 'boathouse.headset'],
    ['reedbox', 'Reedbox', 'music', 'liveOnly', 'boathouse.headset'],
    ['bellbuoy', 'Bellbuoy', 'alerts', 'own', 'boathouse.headset'],
  ],
  pickups: {
    mic: { takes: 'boathouse.mic', to: { 'live-mix': 0, voice: 0 } },
    game: { takes: 'game', to: { 'live-mix': -10, boat: 0 }, scenes: ['race', 'break'] },
    call: { takes: 'bosun', to: { 'live-mix': -3, 'friends-alone': 0 }, scenes: ['race', 'break'] },
    records: { takes: 'reedbox', to: { 'live-mix': -16, music: 0 } },
    bells: { takes: 'bellbuoy', to: { 'live-mix': -8, bell: 0 } },
  },
  tracks: [
    ['live-mix', ['live', 'file'], 'reference'],
    ...edit('voice', 'boat', 'friends-alone', 'music', 'bell'),
  ],
  headphones: ['boathouse.headset'],
  friends: ['boathouse.mic'],
  loudspeakers: ['boathouse.speakers'],
  air: [
    ['loudspeakers', 'narrator'],
    ['headphones', 'narrator'],
  ],
  scenes: ['race', 'break'],
});

/** The creator hears game, record and bells through the recorder; the call plays into the headset by itself. */
const throughRecorder = roomOf('Listening through the recorder', {
  recorder: 'boathouse',
  machines: { boathouse: { defaultOutput: 'boathouse.headset' } },
  devices: {
    'boathouse.headset': 'out',
    'boathouse.screen': 'out',
    'boathouse.game': 'virtual out',
    'boathouse.records': 'virtual out',
    'boathouse.mic': 'in',
  },
  sources: [
    ['narrator', 'Narrator', 'microphone', 'own', 'boathouse.mic'],
    ['game', 'Lock & Paddle', 'game', 'own', 'boathouse.game'],
    ['bosun', 'Bosun', 'voice chat', 'liveAndVod', 'boathouse.headset'],
    ['reedbox', 'Reedbox', 'music', 'liveOnly', 'boathouse.records'],
    ['bellbuoy', 'Bellbuoy', 'alerts', 'own', null, { ownTrack: false }],
  ],
  pickups: {
    mic: { takes: 'boathouse.mic', to: { 'live-mix': 0, 'vod-mix': 0, 'upload-mix': 0, voice: 0 } },
    game: {
      takes: 'boathouse.game',
      to: { 'live-mix': -10, 'vod-mix': -10, 'upload-mix': -10, boat: 0 },
      monitoring: 'heard and sent',
    },
    call: { takes: 'bosun', to: { 'live-mix': -3, 'vod-mix': -3, 'friends-alone': 0 } },
    records: {
      takes: 'boathouse.records',
      to: { 'live-mix': -16, music: 0 },
      monitoring: 'heard and sent',
    },
    bells: { takes: 'bellbuoy', to: {}, monitoring: 'heard' },
  },
  monitors: ['boathouse.headset', 25],
  tracks: [...MIXES, ...edit('voice', 'boat', 'friends-alone', 'music')],
  headphones: ['boathouse.headset'],
  friends: ['boathouse.mic'],
});

/** The recorder takes whatever plays into the headset, and plays the record back on another output, so that it does not come twice. */
const besideTheDesktop = roomOf('Played back beside the desktop', {
  recorder: 'boathouse',
  machines: { boathouse: { defaultOutput: 'boathouse.headset' } },
  devices: {
    'boathouse.headset': 'out',
    'boathouse.second': 'out',
    'boathouse.cable': 'virtual out',
    'boathouse.mic': 'in',
  },
  sources: [
    ['narrator', 'Narrator', 'microphone', 'own', 'boathouse.mic'],
    ['game', 'Lock & Paddle', 'game', 'own', 'boathouse.headset'],
    ['reedbox', 'Reedbox', 'music', 'liveOnly', 'boathouse.cable'],
  ],
  pickups: {
    mic: { takes: 'boathouse.mic', to: { 'live-mix': 0, 'vod-mix': 0, 'upload-mix': 0, voice: 0 } },
    desktop: {
      takes: 'boathouse.headset',
      to: { 'live-mix': -9, 'vod-mix': -9, 'upload-mix': -9, boat: 0 },
    },
    records: {
      takes: 'boathouse.cable',
      to: { 'live-mix': -15, music: 0 },
      monitoring: 'heard and sent',
    },
  },
  monitors: ['boathouse.second', 20],
  air: [['headphones', 'narrator']],
  tracks: [...MIXES, ...edit('voice', 'boat', 'music')],
  headphones: ['boathouse.headset', 'boathouse.second'],
});

const EVENING: RoomSource[] = [
  { name: 'Narrator', kind: 'microphone', preset: 'own' },
  { name: 'Lock & Paddle', kind: 'game', preset: 'own' },
  { name: 'Bosun', kind: 'voice chat', preset: 'liveAndVod', app: 'Towline' },
  { name: 'Wick', kind: 'voice chat', preset: 'liveAndVod', app: 'Towline' },
  { name: 'Reedbox', kind: 'music', preset: 'liveOnly', onStreaming: true },
  { name: 'Bellbuoy', kind: 'alerts', preset: 'own', onStreaming: true },
];
const planned = (machines: 'one' | 'two', desk: boolean) =>
  planRoom('Evening', EVENING, { live: true, vod: true, upload: true, tracks: 8 }, { machines, desk }).setup;

/** Rooms of the kinds that creators have, each as it should be. */
export const RIGHT_ROOMS: [name: string, setup: Setup][] = [
  ['soft desk', softDesk],
  ['two computers, no desk', twoNoDesk],
  ['two machines with a desk', twoMachinesMadeRight()],
  ['app pickups only', regattaMadeRight()],
  ['a virtual cable alone', virtualCable],
  ['a desk with a second feed', deskSecondFeed],
  ['one finished mix, split back', splitMix],
  ['own mix and viewers’ mix', ownAndViewers],
  ['tracks by source, one for live', bySource],
  ['listening through the recorder', throughRecorder],
  ['played back beside the desktop', besideTheDesktop],
  ['planned: one computer', planned('one', false)],
  ['planned: one computer and a desk', planned('one', true)],
  ['planned: two computers', planned('two', false)],
  ['planned: two computers and a desk', planned('two', true)],
];
