import fc from 'fast-check';
import { type ClearancePreset, clearanceOf } from '../setup/clearance.ts';
import { NO_WIRING, SETUP_VERSION, type Setup, TRACK_PURPOSES, TRACK_USES } from '../setup/schema.ts';

const PRESETS: ClearancePreset[] = ['own', 'liveOnly', 'liveAndVod', 'localOnly', 'never'];
const gainDb = fc.integer({ min: -70, max: 12 });

/** Random setups that keep the rules: 1 to 6 sources, 0 to 6 tracks, any sends and wishes. */
export const randomSetup: fc.Arbitrary<Setup> = fc
  .record({
    presets: fc.array(fc.constantFrom(...PRESETS), { minLength: 1, maxLength: 6 }),
    tracks: fc.array(
      fc.record({ uses: fc.subarray([...TRACK_USES]), purpose: fc.constantFrom(...TRACK_PURPOSES) }),
      { maxLength: 6 },
    ),
    trackLimit: fc.integer({ min: 1, max: 8 }),
    recordVod: fc.boolean(),
    levels: fc.array(fc.integer({ min: -70, max: 6 }), { minLength: 6, maxLength: 6 }),
    own: fc.array(fc.boolean(), { minLength: 6, maxLength: 6 }),
    sends: fc.array(fc.option(gainDb, { freq: 2 }), { minLength: 48, maxLength: 48 }),
    wishes: fc.array(fc.option(gainDb, { freq: 2 }), { minLength: 60, maxLength: 60 }),
  })
  .map(({ presets, tracks, trackLimit, recordVod, levels, own, sends, wishes }): Setup => {
    const sources = presets.map((preset, i) => ({
      id: `s${i}`,
      name: `Source ${i}`,
      kind: 'game' as const,
      clearance: clearanceOf(preset),
      levelDb: levels[i],
      media: null,
      ownTrack: own[i],
    }));
    const sheet = tracks.map((track, i) => ({
      ...track,
      id: `t${i}`,
      name: `Track ${i}`,
      codec: 'pcm-s24' as const,
      layout: 'stereo' as const,
    }));
    const destinations = [
      { id: 'headphones', name: 'Own headphones', kind: 'headphones' as const },
      { id: 'friends', name: 'Friends in chat', kind: 'friends' as const },
      { id: 'live', name: 'Live', kind: 'live' as const },
      { id: 'vod', name: 'VOD', kind: 'vod' as const },
    ];
    const feeds = ['headphones', 'friends', ...sheet.map(({ id }) => id)];
    const places = [...destinations.map(({ id }) => id), ...sheet.map(({ id }) => id)];
    return {
      format: 'northfen.setup',
      version: SETUP_VERSION,
      name: 'Random',
      recorder: { trackLimit, recordVod },
      ...NO_WIRING,
      sources,
      pickups: sources.map(({ id }) => ({ id: `${id}.pickup`, takes: id, gainDb: 0 })),
      tracks: sheet,
      destinations,
      sends: sources.flatMap(({ id }, s) =>
        feeds.flatMap((to, f) => {
          const gain = sends[s * 8 + f];
          return gain === null ? [] : [{ pickup: `${id}.pickup`, to, gainDb: gain }];
        }),
      ),
      intent: sources.flatMap(({ id }, s) =>
        places.flatMap((destination, p) => {
          const gain = wishes[s * 10 + p];
          return gain === null ? [] : [{ source: id, destination, gainDb: gain }];
        }),
      ),
    };
  });
