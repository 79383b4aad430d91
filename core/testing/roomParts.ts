import type { Sketch } from './sketch.ts';

type Line = Sketch['sources'][number];

/** The sources that most rooms have, each playing into a device. */
export const narrator = (into: string): Line => ['narrator', 'Narrator', 'microphone', 'own', into];
export const game = (into: string): Line => ['game', 'Lock & Paddle', 'game', 'own', into];
export const bosun = (into: string, more?: Line[5]): Line => [
  'bosun',
  'Bosun',
  'voice chat',
  'liveAndVod',
  into,
  more,
];
export const wick = (into: string, more?: Line[5]): Line => [
  'wick',
  'Wick',
  'voice chat',
  'liveAndVod',
  into,
  more,
];
export const reedbox = (into: string): Line => ['reedbox', 'Reedbox', 'music', 'liveOnly', into];

/** Friends who come out of one app, and need no track each. */
export const VOICES = { app: 'Towline', ownTrack: false };
/** A mix for live, one for the VOD, and one to upload. */
export const MIXES: Sketch['tracks'] = [
  ['live-mix', ['live'], 'reference'],
  ['vod-mix', ['vod', 'file'], 'reference'],
  ['upload-mix', ['file'], 'publish'],
];
/** Edit tracks by their ids. */
export const edit = (...ids: string[]): Sketch['tracks'] => ids.map((id) => [id, ['file'], 'edit']);

/** The microphone on every mix, and on a track of its own. */
export const ON_EVERY_MIX = { 'live-mix': 0, 'vod-mix': 0, 'upload-mix': 0, voice: 0 };
