import { blankSetup } from '../core/setup/blank.ts';
import { clearanceOf } from '../core/setup/clearance.ts';
import type { Setup } from '../core/setup/schema.ts';

/** A setup of so many sources, all sent to every one of so many tracks (and to destinations when there are to be more). */
export function fullSetup(sources: number, tracks: number): Setup {
  const ids = Array.from({ length: sources }, (_, i) => `s${i}`);
  const sheet = Array.from({ length: tracks }, (_, i) => `t${i}`);
  return {
    ...blankSetup('Bench'),
    recorder: { trackLimit: 32 },
    sources: ids.map((id) => ({
      id,
      name: id,
      kind: 'game',
      clearance: clearanceOf('own'),
      levelDb: 0,
      media: null,
    })),
    pickups: ids.map((id) => ({ id: `${id}.pickup`, takes: id, gainDb: 0 })),
    tracks: sheet.map((id, i) => ({
      id,
      name: id,
      uses: i === 0 ? ['live'] : i === 1 ? ['vod'] : ['file'],
      purpose: 'edit',
      codec: 'pcm-s24',
      layout: 'stereo',
    })),
    destinations: [
      { id: 'live', name: 'Live', kind: 'live' },
      { id: 'vod', name: 'VOD', kind: 'vod' },
    ],
    sends: ids.flatMap((id, i) =>
      sheet.map((to, k) => ({ pickup: `${id}.pickup`, to, gainDb: -6 - ((i + k) % 12) })),
    ),
    intent: ids.map((source) => ({ source, destination: 't2', gainDb: 0 })),
  };
}

/**
 * A setup of 40 sources over two machines: 12 devices, 6 mixes, a link, 10 pickups, 4 scenes, 16 destinations. A few
 * things are wrong in it, as in a real one.
 */
export function wiredSetup(): Setup {
  const base = fullSetup(40, 15);
  const devices = Array.from({ length: 12 }, (_, i) => ({
    id: `d${i}`,
    name: `Device ${i}`,
    machine: i < 6 ? 'a' : 'b',
    direction: i === 11 ? ('in' as const) : ('out' as const),
    kind: 'virtual' as const,
  }));
  const sources = base.sources.map((source, i) => ({
    ...source,
    machine: i % 2 ? 'a' : 'b',
    into: i % 2 ? `d${i % 6}` : `d${6 + (i % 5)}`,
    clearance: clearanceOf(i % 7 === 0 ? 'liveOnly' : 'own'),
  }));
  const pickups = Array.from({ length: 10 }, (_, i) => ({
    id: `p${i}`,
    takes: i < 6 ? `d${6 + i}` : `s${i * 2}`,
    gainDb: 0,
    ...(i === 3 ? { scenes: ['scene0', 'scene1'] } : {}),
  }));
  return {
    ...base,
    recorder: { machine: 'b', trackLimit: 16 },
    machines: [
      { id: 'a', name: 'A', kind: 'computer', defaultOutput: 'd0' },
      { id: 'b', name: 'B', kind: 'computer', defaultOutput: 'd6' },
    ],
    devices,
    mixes: Array.from({ length: 6 }, (_, i) => ({
      id: `m${i}`,
      name: `Mix ${i}`,
      machine: i < 3 ? 'a' : 'b',
      inputs: [
        { from: `d${i < 3 ? i + 1 : i + 4}`, gainDb: -3 },
        { from: `d${i < 3 ? i + 2 : i + 5}`, gainDb: -6 },
      ],
      into: [i < 3 ? 'd0' : 'd6'],
    })),
    links: [{ id: 'link', name: 'Link', from: 'd0', to: 'd11', kind: 'usb', latencyMs: 5 }],
    scenes: Array.from({ length: 4 }, (_, i) => ({ id: `scene${i}`, name: `Scene ${i}` })),
    sources,
    pickups,
    destinations: [
      { id: 'headphones', name: 'Headphones', kind: 'headphones', hears: ['d6'] },
      ...base.destinations,
    ],
    sends: pickups.flatMap(({ id }, i) =>
      base.tracks.flatMap((track, k) =>
        (i + k) % 3 === 0 ? [{ pickup: id, to: track.id, gainDb: -6 }] : [],
      ),
    ),
    intent: sources.flatMap(({ id }, i) =>
      ['live', 'vod', `t${2 + (i % 11)}`].map((destination) => ({ source: id, destination, gainDb: -6 })),
    ),
  };
}
