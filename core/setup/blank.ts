import { NO_WIRING, SETUP_VERSION, type Setup } from './schema.ts';

/** Returns a setup without sources: headphones, friends, live and VOD to send to, and one track for each of the last two. */
export function blankSetup(name: string): Setup {
  return {
    format: 'northfen.setup',
    version: SETUP_VERSION,
    name,
    recorder: {},
    ...NO_WIRING,
    sources: [],
    pickups: [],
    tracks: [
      {
        id: 'live-mix',
        name: 'Live mix',
        uses: ['live'],
        purpose: 'reference',
        codec: 'pcm-s24',
        layout: 'stereo',
      },
      {
        id: 'vod-mix',
        name: 'VOD mix',
        uses: ['vod', 'file'],
        purpose: 'reference',
        codec: 'pcm-s24',
        layout: 'stereo',
      },
    ],
    destinations: [
      { id: 'headphones', name: 'Own headphones', kind: 'headphones' },
      { id: 'friends', name: 'Friends in chat', kind: 'friends' },
      { id: 'live', name: 'Live', kind: 'live', targetLufs: -16 },
      { id: 'vod', name: 'VOD', kind: 'vod', targetLufs: -16 },
    ],
    sends: [],
    intent: [],
  };
}
