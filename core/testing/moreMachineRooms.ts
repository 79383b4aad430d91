import { bosun, edit, game, MIXES, narrator, ON_EVERY_MIX, reedbox, VOICES, wick } from './roomParts.ts';
import { roomOf } from './sketch.ts';

/** Two computers without a desk: the game comes over HDMI, the call over the network, the microphone is plugged in twice. */
export const twoNoDesk = roomOf('Two computers, no desk', {
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
    narrator('boathouse.mic'),
    game('boathouse.hdmi'),
    bosun('boathouse.call', VOICES),
    wick('boathouse.call', VOICES),
    reedbox('loft.records'),
    ['bellbuoy', 'Bellbuoy', 'alerts', 'own', null],
  ],
  pickups: {
    mic: { takes: 'loft.mic', to: ON_EVERY_MIX },
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

/** A desk between microphone, game and call; one feed to the recorder has the voice, a second one everything for the viewers. */
export const deskSecondFeed = roomOf('A desk with a second feed', {
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
    narrator('sluicebox.mic'),
    game('boathouse.desk-game'),
    bosun('boathouse.desk-call', VOICES),
    wick('boathouse.desk-call', VOICES),
    reedbox('boathouse.records'),
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
export const splitMix = roomOf('One finished mix, split back', {
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
    game('boathouse.desk'),
    reedbox('loft.records'),
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

/** Three computers: the game over HDMI, the call over the network, records over a line; the microphone goes back to the first over USB. */
export const threeComputers = roomOf('Three computers', {
  recorder: 'loft',
  machines: {
    boathouse: { defaultOutput: 'boathouse.hdmi' },
    loft: { defaultOutput: 'loft.phones' },
    jetty: { defaultOutput: 'jetty.out' },
  },
  devices: {
    'boathouse.hdmi': 'out',
    'boathouse.call': 'virtual out',
    'boathouse.mic': 'in',
    'jetty.out': 'out',
    'loft.capture': 'in',
    'loft.call': 'virtual in',
    'loft.jetty': 'in',
    'loft.mic': 'in',
    'loft.phones': 'out',
    'loft.mic-on': 'out',
  },
  links: [
    ['boathouse.hdmi', 'loft.capture', 'hdmi', { latencyMs: 50 }],
    ['boathouse.call', 'loft.call', 'network'],
    ['jetty.out', 'loft.jetty', 'analogue'],
    ['loft.mic-on', 'boathouse.mic', 'usb'],
  ],
  mixes: {
    phones: {
      on: 'loft',
      inputs: { 'loft.capture': -8, 'loft.call': -2, 'loft.jetty': -14 },
      into: ['loft.phones'],
    },
    'to-call': { on: 'loft', inputs: { 'loft.mic': 0, 'loft.jetty': null }, into: ['loft.mic-on'] },
  },
  sources: [
    narrator('loft.mic'),
    game('boathouse.hdmi'),
    bosun('boathouse.call', VOICES),
    wick('boathouse.call', VOICES),
    reedbox('jetty.out'),
    ['bellbuoy', 'Bellbuoy', 'alerts', 'own', null],
  ],
  pickups: {
    mic: { takes: 'loft.mic', to: ON_EVERY_MIX },
    capture: { takes: 'loft.capture', to: { 'live-mix': -10, 'vod-mix': -10, 'upload-mix': -10, boat: 0 } },
    call: { takes: 'loft.call', to: { 'live-mix': -4, 'vod-mix': -4, 'friends-alone': 0 } },
    jetty: { takes: 'loft.jetty', to: { 'live-mix': -18, music: 0 } },
    bells: { takes: 'bellbuoy', to: { 'live-mix': -9, 'vod-mix': -9, 'upload-mix': -9 } },
  },
  tracks: [...MIXES, ...edit('voice', 'boat', 'friends-alone', 'music')],
  headphones: ['loft.phones'],
  friends: ['boathouse.mic'],
});
