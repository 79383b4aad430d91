import { bosun, edit, game, MIXES, narrator, ON_EVERY_MIX, reedbox, VOICES, wick } from './roomParts.ts';
import { roomOf } from './sketch.ts';

/** Every app of one computer plays into a virtual device of its own; mixes on it bring them to the headphones and the viewers. */
export const softDesk = roomOf('Soft desk', {
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
    narrator('boathouse.mic'),
    game('boathouse.game'),
    bosun('boathouse.call', VOICES),
    wick('boathouse.call', VOICES),
    reedbox('boathouse.records'),
    ['pings', 'Pings', 'system', 'never', 'boathouse.system'],
  ],
  pickups: {
    mic: { takes: 'boathouse.mic', to: ON_EVERY_MIX },
    game: { takes: 'boathouse.game', to: { 'live-mix': -10, 'vod-mix': -10, 'upload-mix': -10, boat: 0 } },
    call: { takes: 'boathouse.call', to: { 'live-mix': -2, 'vod-mix': -2, 'friends-alone': 0 } },
    records: { takes: 'boathouse.records', to: { 'live-mix': -16, music: 0 } },
  },
  tracks: [...MIXES, ...edit('voice', 'boat', 'music', 'friends-alone')],
  headphones: ['boathouse.headset'],
  friends: ['boathouse.to-chat'],
});

/** One computer: everything plays into the headset but the record, which a virtual cable takes aside. */
export const virtualCable = roomOf('A virtual cable alone', {
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
    narrator('boathouse.mic'),
    game('boathouse.headset'),
    ['bellbuoy', 'Bellbuoy', 'alerts', 'own', 'boathouse.headset', { ownTrack: false }],
    reedbox('boathouse.cable'),
  ],
  pickups: {
    mic: { takes: 'boathouse.mic', to: ON_EVERY_MIX },
    desktop: {
      takes: 'boathouse.headset',
      to: { 'live-mix': -10, 'vod-mix': -10, 'upload-mix': -10, desktop: 0 },
    },
    records: { takes: 'boathouse.cable', to: { 'live-mix': -18, music: 0 } },
  },
  tracks: [...MIXES, ...edit('voice', 'desktop', 'music')],
  headphones: ['boathouse.headset', 'boathouse.monitor-screen'],
});

/** One mix for the creator and one for the viewers, on one computer; each app is also picked up for a track of its own. */
export const ownAndViewers = roomOf('Own mix and viewers’ mix', {
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
    narrator('boathouse.mic'),
    game('boathouse.game'),
    bosun('boathouse.call'),
    reedbox('boathouse.records'),
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
export const bySource = roomOf('Tracks by source, one for live', {
  recorder: 'boathouse',
  machines: { boathouse: { defaultOutput: 'boathouse.headset' } },
  devices: { 'boathouse.headset': 'out', 'boathouse.speakers': 'out', 'boathouse.mic': 'in' },
  sources: [
    narrator('boathouse.mic'),
    game('boathouse.headset'),
    bosun('boathouse.headset'),
    reedbox('boathouse.headset'),
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
export const throughRecorder = roomOf('Listening through the recorder', {
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
    narrator('boathouse.mic'),
    game('boathouse.game'),
    bosun('boathouse.headset'),
    reedbox('boathouse.records'),
    ['bellbuoy', 'Bellbuoy', 'alerts', 'own', null, { ownTrack: false }],
  ],
  pickups: {
    mic: { takes: 'boathouse.mic', to: ON_EVERY_MIX },
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
export const besideTheDesktop = roomOf('Played back beside the desktop', {
  recorder: 'boathouse',
  machines: { boathouse: { defaultOutput: 'boathouse.headset' } },
  devices: {
    'boathouse.headset': 'out',
    'boathouse.second': 'out',
    'boathouse.cable': 'virtual out',
    'boathouse.mic': 'in',
  },
  sources: [narrator('boathouse.mic'), game('boathouse.headset'), reedbox('boathouse.cable')],
  pickups: {
    mic: { takes: 'boathouse.mic', to: ON_EVERY_MIX },
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

/** A handheld on a capture card and a phone on the line input, both heard through the recorder; the browser is taken by itself. */
export const handheldOnCard = roomOf('A handheld on a card', {
  recorder: 'boathouse',
  machines: { boathouse: { defaultOutput: 'boathouse.headset' } },
  devices: {
    'boathouse.headset': 'out',
    'boathouse.screen': 'out',
    'boathouse.card': 'in',
    'boathouse.line': 'in',
    'boathouse.mic': 'in',
  },
  sources: [
    narrator('boathouse.mic'),
    ['minnow', 'Minnow', 'handheld', 'own', 'boathouse.card'],
    bosun('boathouse.line'),
    ['quillpage', 'Quillpage', 'browser', 'liveOnly', 'boathouse.headset'],
    ['bellbuoy', 'Bellbuoy', 'alerts', 'own', null],
    reedbox('boathouse.screen'),
  ],
  pickups: {
    mic: { takes: 'boathouse.mic', to: ON_EVERY_MIX },
    card: {
      takes: 'boathouse.card',
      to: { 'live-mix': -6, 'vod-mix': -6, 'upload-mix': -6, boat: 0 },
      monitoring: 'heard and sent',
    },
    line: {
      takes: 'boathouse.line',
      to: { 'live-mix': -2, 'vod-mix': -2, 'friends-alone': 0 },
      monitoring: 'heard and sent',
    },
    pages: { takes: 'quillpage', to: { 'live-mix': -8, web: 0 } },
    bells: { takes: 'bellbuoy', to: { 'live-mix': -8, 'vod-mix': -8, 'upload-mix': -8 } },
    records: { takes: 'boathouse.screen', to: { 'live-mix': -20, music: 0 } },
  },
  monitors: ['boathouse.headset', 12],
  tracks: [...MIXES, ...edit('voice', 'boat', 'friends-alone', 'web', 'music')],
  headphones: ['boathouse.headset'],
  scenes: ['play', 'talk', 'end'],
});
