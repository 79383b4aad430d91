import { presetOf, safePresetOf } from '../setup/clearance.ts';
import type { Setup, Source } from '../setup/schema.ts';
import type { Hardware, RoomSource } from './room.ts';
import type { Aims } from './tracks.ts';

/** What “Start from nothing” is told. */
export interface Told {
  sources: RoomSource[];
  hardware: Hardware;
  aims: Aims;
}

/** Returns what one would tell to come to a setup like this: its sources, and the answers as far as they can be read from it. */
export function toldBy(setup: Setup): Told {
  const { machines, destinations, pickups, recorder, tracks } = setup;
  const hasTwo = machines.filter(({ kind }) => kind === 'computer').length > 1;
  const isApp = (id: string) => setup.sources.some((source) => source.id === id);
  const ofApps = pickups.filter(({ takes }) => isApp(takes)).length;
  const hasUse = (use: 'live' | 'vod') => tracks.some(({ uses }) => uses.includes(use));
  return {
    sources: setup.sources.map((source) => ({
      name: source.name,
      kind: source.kind,
      preset: presetOf(source.clearance) ?? safePresetOf(source.kind),
      ...(source.app !== undefined && { app: source.app }),
      ...(hasTwo && { onStreaming: source.machine !== undefined && source.machine === recorder.machine }),
    })),
    hardware: {
      machines: hasTwo ? 'two' : 'one',
      desk: machines.some(({ kind }) => kind === 'desk'),
      loudspeakers: destinations.some(({ kind }) => kind === 'loudspeakers'),
      takes: ofApps * 2 > pickups.length ? 'apps' : 'devices',
      isGiven: setup.sources.some(({ machineInto }) => machineInto !== undefined),
      playsBack: !hasTwo && pickups.some(({ monitoring }) => monitoring !== undefined),
      chatMix: isMixed(setup),
      studio: destinations.some(({ kind }) => kind === 'other'),
    },
    aims: {
      live: hasUse('live'),
      vod: hasUse('vod'),
      upload: tracks.some(({ purpose }) => purpose === 'publish'),
      tracks: Math.max(recorder.trackLimit ?? 0, tracks.length, 1),
    },
  };
}

/** Tells whether the friends are given the game as well. */
function isMixed({ destinations, intent, sources }: Setup): boolean {
  const friends = destinations.filter(({ kind }) => kind === 'friends').map(({ id }) => id);
  const games = sources.filter(({ kind }) => kind === 'game').map(({ id }) => id);
  return intent.some(({ source, destination }) => games.includes(source) && friends.includes(destination));
}

/** What belongs to a source wherever it is wired. */
const OWN = ['clearance', 'levelDb', 'processing', 'media', 'volumePercent'] as const;

/** Gives the sources of a new setup what those of the same name and kind have in another: recording, clearance, level, processing. */
export function carriedOver(old: Setup, made: Setup): Setup {
  const sources = made.sources.map((source): Source => {
    const known = old.sources.find(({ name, kind }) => name === source.name && kind === source.kind);
    if (!known) return source;
    const own = Object.fromEntries(
      OWN.flatMap((key) => (known[key] === undefined ? [] : [[key, known[key]] as const])),
    );
    return { ...source, ...own };
  });
  // Processing may listen to another source; one whose name is another now is listened to no more.
  const ids = new Map(
    old.sources.map(({ id, name }) => [id, made.sources.find((one) => one.name === name)?.id]),
  );
  return { ...made, sources: sources.map((source) => withKeys(source, ids)) };
}

function withKeys(source: Source, ids: Map<string, string | undefined>): Source {
  if (!source.processing) return source;
  const processing = source.processing.flatMap((step) => {
    if (!('key' in step) || typeof step.key !== 'string') return [step];
    const key = ids.get(step.key);
    return key === undefined ? [] : [{ ...step, key }];
  });
  return { ...source, processing };
}
