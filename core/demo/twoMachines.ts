import type { ClearancePreset } from '../setup/clearance.ts';
import { SETUP_VERSION, type Setup, type Source } from '../setup/schema.ts';
import type { Device } from '../setup/wiring.ts';
import { type DEMO_MEDIA, source, track } from './parts.ts';

/**
 * The regatta on two machines: Boathouse plays the game and holds the call, Loft streams and records, and the desk
 * Sluicebox stands between them. No finding stands.
 */
export function twoMachinesMadeRight(): Setup {
  return {
    format: 'northfen.setup',
    version: SETUP_VERSION,
    name: 'Two machines, made right',
    recorder: { machine: 'loft', trackLimit: 8 },
    machines: [
      { id: 'boathouse', name: 'Boathouse', kind: 'computer', defaultOutput: 'boathouse.game', clockPpm: 12 },
      { id: 'loft', name: 'Loft', kind: 'computer', defaultOutput: 'loft.main' },
      { id: 'sluicebox', name: 'Sluicebox', kind: 'desk', handovers: 2 },
      { id: 'minnow-handheld', name: 'Minnow', kind: 'console' },
    ],
    devices: [
      device('boathouse.game', 'Game channel', 'boathouse', 'out'),
      device('boathouse.hdmi', 'HDMI to the capture', 'boathouse', 'out'),
      device('boathouse.call', 'Call', 'boathouse', 'out', 'virtual'),
      device('boathouse.chat-out', 'Call channel', 'boathouse', 'out'),
      device('boathouse.chat-in', 'Chat microphone', 'boathouse', 'in'),
      device('loft.main', 'Desktop', 'loft', 'out'),
      device('loft.records', 'Records', 'loft', 'out', 'virtual'),
      device('loft.cable', 'Spare cable', 'loft', 'out', 'virtual'),
      device('loft.desk', 'Desk feed', 'loft', 'in'),
      device('loft.capture', 'Capture', 'loft', 'in'),
      device('loft.call', 'Call', 'loft', 'in', 'virtual'),
      device('loft.line', 'Line input', 'loft', 'in'),
      device('sluicebox.mic', 'Microphone', 'sluicebox', 'in'),
      device('sluicebox.game', 'Game', 'sluicebox', 'in'),
      device('sluicebox.chat', 'Call', 'sluicebox', 'in'),
      device('sluicebox.phones', 'Headphones', 'sluicebox', 'out'),
      device('sluicebox.to-loft', 'USB to Loft', 'sluicebox', 'out'),
      device('sluicebox.to-boathouse', 'USB to Boathouse', 'sluicebox', 'out'),
      device('minnow.jack', 'Headphone jack', 'minnow-handheld', 'out'),
    ],
    links: [
      {
        id: 'hdmi',
        name: 'HDMI cable',
        from: 'boathouse.hdmi',
        to: 'loft.capture',
        kind: 'hdmi',
        latencyMs: 42,
      },
      {
        id: 'game-usb',
        name: 'Game USB',
        from: 'boathouse.game',
        to: 'sluicebox.game',
        kind: 'usb',
        latencyMs: 4,
      },
      {
        id: 'call-usb',
        name: 'Call USB',
        from: 'boathouse.chat-out',
        to: 'sluicebox.chat',
        kind: 'usb',
        latencyMs: 4,
      },
      {
        id: 'call-network',
        name: 'Call over the network',
        from: 'boathouse.call',
        to: 'loft.call',
        kind: 'network',
        latencyMs: 20,
      },
      {
        id: 'desk-loft',
        name: 'Desk USB to Loft',
        from: 'sluicebox.to-loft',
        to: 'loft.desk',
        kind: 'usb',
        latencyMs: 6,
      },
      {
        id: 'desk-boathouse',
        name: 'Desk USB to Boathouse',
        from: 'sluicebox.to-boathouse',
        to: 'boathouse.chat-in',
        kind: 'usb',
        latencyMs: 6,
      },
      {
        id: 'minnow-line',
        name: 'Minnow’s line',
        from: 'minnow.jack',
        to: 'loft.line',
        kind: 'analogue',
        latencyMs: 0,
        isolated: true,
      },
    ],
    mixes: [
      {
        id: 'boathouse.copies',
        name: 'Copy of the game',
        machine: 'boathouse',
        inputs: [{ from: 'boathouse.game', gainDb: 0 }],
        into: ['boathouse.hdmi'],
      },
      {
        id: 'boathouse.call-on',
        name: 'Call to the desk',
        machine: 'boathouse',
        inputs: [{ from: 'boathouse.call', gainDb: 0 }],
        into: ['boathouse.chat-out'],
      },
      {
        id: 'sluicebox.ears',
        name: 'Headphone mix',
        machine: 'sluicebox',
        inputs: [
          { from: 'sluicebox.mic', gainDb: -12, muted: true },
          { from: 'sluicebox.game', gainDb: -6 },
          { from: 'sluicebox.chat', gainDb: 0 },
        ],
        into: ['sluicebox.phones'],
      },
      {
        id: 'sluicebox.loft-feed',
        name: 'Feed to Loft',
        machine: 'sluicebox',
        inputs: [
          { from: 'sluicebox.mic', gainDb: 0 },
          { from: 'sluicebox.game', gainDb: -6, muted: true },
        ],
        into: ['sluicebox.to-loft'],
      },
      {
        id: 'sluicebox.chat-mix',
        name: 'Mix for the friends',
        machine: 'sluicebox',
        inputs: [
          { from: 'sluicebox.mic', gainDb: 0 },
          { from: 'sluicebox.chat', gainDb: -10, muted: true },
        ],
        into: ['sluicebox.to-boathouse'],
      },
    ],
    scenes: [
      { id: 'race', name: 'Race' },
      { id: 'break', name: 'Break' },
    ],
    sources: [
      placed('narrator', 'Narrator', 'microphone', 'own', 'sluicebox', 'sluicebox.mic'),
      placed('game', 'Lock & Paddle', 'game', 'own', 'boathouse', 'boathouse.game'),
      placed('bosun', 'Bosun', 'voice chat', 'liveAndVod', 'boathouse', 'boathouse.call', {
        app: 'Towline',
        ownTrack: false,
      }),
      placed('wick', 'Wick', 'voice chat', 'liveAndVod', 'boathouse', 'boathouse.call', {
        app: 'Towline',
        ownTrack: false,
      }),
      placed('pings', 'Boathouse pings', 'system', 'never', 'boathouse', 'boathouse.chat-out'),
      placed('reedbox', 'Reedbox', 'music', 'liveOnly', 'loft', 'loft.records'),
      placed('bellbuoy', 'Bellbuoy', 'alerts', 'own', 'loft', undefined, { ownTrack: false }),
      placed('quillpage', 'Quillpage', 'browser', 'liveAndVod', 'loft', undefined, { ownTrack: false }),
      placed('minnow', 'Minnow', 'handheld', 'own', 'minnow-handheld', 'minnow.jack', { ownTrack: false }),
    ],
    pickups: [
      { id: 'desk-feed', name: 'Desk feed', takes: 'loft.desk', gainDb: 0, mono: true },
      { id: 'capture', name: 'Capture', takes: 'loft.capture', gainDb: 0, scenes: ['race', 'break'] },
      { id: 'call', name: 'Call', takes: 'loft.call', gainDb: 0, scenes: ['race', 'break'] },
      { id: 'records', name: 'Records', takes: 'loft.records', gainDb: 0 },
      { id: 'bells', name: 'Bellbuoy', takes: 'bellbuoy', gainDb: 0 },
      { id: 'pages', name: 'Quillpage', takes: 'quillpage', gainDb: 0 },
      { id: 'line', name: 'Minnow', takes: 'loft.line', gainDb: 0 },
    ],
    tracks: [
      track('live-mix', 'Live mix', ['live'], 'reference'),
      track('vod-mix', 'VOD mix', ['vod', 'file'], 'reference'),
      track('upload-mix', 'Upload mix', ['file'], 'publish'),
      track('voice', 'Voice', ['file'], 'edit', { layout: 'mono' }),
      track('boat', 'Game', ['file'], 'edit'),
      track('friends-alone', 'Friends', ['file'], 'edit'),
      track('records-alone', 'Records', ['file'], 'edit'),
    ],
    destinations: [
      { id: 'headphones', name: 'Own headphones', kind: 'headphones', hears: ['sluicebox.phones'] },
      { id: 'friends', name: 'Friends in chat', kind: 'friends', hears: ['boathouse.chat-in'] },
      { id: 'live', name: 'Live', kind: 'live', targetLufs: -16 },
      { id: 'vod', name: 'VOD', kind: 'vod', targetLufs: -16 },
    ],
    sends: Object.entries(SENT).flatMap(([pickup, levels]) =>
      Object.entries(levels).map(([to, gainDb]) => ({ pickup, to, gainDb })),
    ),
    intent: Object.entries(WANTED).flatMap(([source, levels]) =>
      Object.entries(levels).map(([destination, gainDb]) => ({ source, destination, gainDb })),
    ),
  };
}

/**
 * The same two machines as they were found: the friends hear themselves, the game comes twice, the line hums, a page
 * plays into a cable that nobody hears, the record stays in the VOD and plays at 40 %, and a scene is silent.
 */
export function twoMachinesWithFaults(): Setup {
  const right = twoMachinesMadeRight();
  return {
    ...right,
    name: 'Two machines',
    links: right.links.map((link) => (link.id === 'minnow-line' ? { ...link, isolated: false } : link)),
    mixes: right.mixes.map((mix) =>
      mix.id === 'sluicebox.chat-mix' || mix.id === 'sluicebox.loft-feed'
        ? { ...mix, inputs: mix.inputs.map((input) => ({ ...input, muted: false })) }
        : mix,
    ),
    sources: right.sources.map((one) => {
      if (one.id === 'game') return { ...one, into: 'default' };
      if (one.id === 'quillpage') return { ...one, into: 'loft.cable' };
      if (one.id === 'reedbox') return { ...one, volumePercent: 40 };
      return one;
    }),
    pickups: right.pickups
      .filter((pickup) => pickup.id !== 'pages')
      .map((pickup) => (pickup.id === 'desk-feed' ? { ...pickup, scenes: ['race'] } : pickup)),
    sends: [
      ...right.sends.filter((send) => send.pickup !== 'pages'),
      { pickup: 'records', to: 'vod-mix', gainDb: -16 },
    ],
  };
}

/** The sends of the setup that is made right, by pickup and track. */
const SENT: Record<string, Record<string, number>> = {
  'desk-feed': { 'live-mix': 1.5, 'vod-mix': 1.5, 'upload-mix': 1.5, voice: 0 },
  capture: { 'live-mix': -10, 'vod-mix': -10, 'upload-mix': -9, boat: 0 },
  call: { 'live-mix': -1, 'vod-mix': -1, 'friends-alone': 0 },
  records: { 'live-mix': -16, 'records-alone': 0 },
  bells: { 'live-mix': -8, 'vod-mix': -8, 'upload-mix': -8 },
  pages: { 'live-mix': -8, 'vod-mix': -8 },
  line: { 'live-mix': -9, 'vod-mix': -9, 'upload-mix': -9 },
};

/** What is wanted where. */
const WANTED: Record<string, Record<string, number>> = {
  narrator: { friends: 0, live: 1.5, vod: 1.5, 'upload-mix': 1.5, voice: 0 },
  game: { headphones: -6, live: -10, vod: -10, 'upload-mix': -9, boat: 0 },
  bosun: { headphones: 0, live: -1, vod: -1, 'friends-alone': 0 },
  wick: { headphones: 0, live: -1, vod: -1, 'friends-alone': 0 },
  pings: { headphones: 0 },
  reedbox: { live: -16, 'records-alone': 0 },
  bellbuoy: { live: -8, vod: -8, 'upload-mix': -8 },
  quillpage: { live: -8, vod: -8 },
  minnow: { live: -9, vod: -9, 'upload-mix': -9 },
};

function device(
  id: string,
  name: string,
  machine: string,
  direction: Device['direction'],
  kind: Device['kind'] = 'physical',
): Device {
  return { id, name, machine, direction, kind };
}

function placed(
  id: keyof typeof DEMO_MEDIA,
  name: string,
  kind: Source['kind'],
  preset: ClearancePreset,
  machine: string,
  into: string | undefined,
  more: Partial<Source> = {},
): Source {
  const place = into === undefined ? { machine } : { machine, into };
  return source(id, name, kind, preset, { ...place, ...more });
}
