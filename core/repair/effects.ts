import { isSameDb, type ReachChange } from '../reach/changes.ts';
import { type Destination, destinationsOf } from '../reach/destinations.ts';
import { graphOf } from '../reach/graph.ts';
import { arrivalAt, type Trail, trailOf } from '../reach/reach.ts';
import type { Setup } from '../setup/schema.ts';
import { gainText, listed } from '../words/figures.ts';
import type { Judged } from './judge.ts';

/** What a change does for whom: sounds that are gained, lost, or moved in level. */
export type EffectKind = 'gained' | 'lost' | 'moved';

/** What changes for one destination, in words. */
export interface Effect {
  destination: string;
  kind: EffectKind;
  text: string;
}

/**
 * Returns what changes in reach between two setups that were judged, the second from the first: with every pickup sounding, or, where
 * scenes differ in it, scene by scene.
 */
export function changesOf(before: Judged, after: Judged): ReachChange[] {
  const scenes = after.setup.scenes.map(({ id }) => id);
  const places = new Map(
    [...before.destinations, ...after.destinations].map((destination) => [destination.id, destination]),
  );
  const changes: ReachChange[] = [];
  const [trailsBefore, trailsAfter] = [trailsOf(before), trailsOf(after)];
  for (const [source, trail] of trailsAfter) {
    const was = trailsBefore.get(source);
    if (was === trail) continue;
    for (const [destination] of places) {
      const [old, now] = [before, after].map(({ destinations }) =>
        destinations.find(({ id }) => id === destination),
      );
      const between = (scene: string | null): ReachChange[] => {
        const beforeDb = was && old ? gainIn(was, old, scene) : null;
        const afterDb = now ? gainIn(trail, now, scene) : null;
        return isSameDb(beforeDb, afterDb) ? [] : [{ source, destination, scene, beforeDb, afterDb }];
      };
      const inScenes = scenes.flatMap(between);
      const [first] = inScenes;
      const isEverywhere =
        inScenes.length === scenes.length &&
        inScenes.every(
          (one) => isSameDb(one.beforeDb, first.beforeDb) && isSameDb(one.afterDb, first.afterDb),
        );
      if (scenes.length === 0) changes.push(...between(null));
      else if (isEverywhere) changes.push({ ...first, scene: null });
      else changes.push(...inScenes);
    }
  }
  return changes;
}

/** Where each source goes, through the air too. */
function trailsOf({ setup, bySource }: Judged): Map<string, Trail> {
  if (!setup.air?.length) return new Map([...bySource].map(([id, { trail }]) => [id, trail]));
  const graph = graphOf(setup);
  return new Map(setup.sources.map((source) => [source.id, trailOf(graph, source)]));
}

function gainIn(trail: Trail, destination: Destination, scene: string | null): number | null {
  const heard = scene === null ? trail : trailOf(trail.graph, trail.source, scene);
  return arrivalAt(heard, destination)?.gainDb ?? null;
}

const WORDS = { gained: 'New at', lost: 'No longer at', moved: 'Other level at' } as const;

/** Says changes in words, destination by destination: "New at Live: Game (−10.0 dB) and Bosun (−1.0 dB)." */
export function effectsOf(before: Setup, after: Setup, changes: ReachChange[]): Effect[] {
  const names = new Map(
    [before, after].flatMap((one) =>
      [...one.sources, ...destinationsOf(one), ...one.scenes].map(({ id, name }) => [id, name]),
    ),
  );
  const groups = new Map<
    string,
    { kind: EffectKind; destination: string; scene: string | null; parts: string[] }
  >();
  for (const { source, destination, scene, beforeDb, afterDb } of changes) {
    const kind: EffectKind = beforeDb === null ? 'gained' : afterDb === null ? 'lost' : 'moved';
    const key = `${destination} ${kind} ${scene}`;
    const group = groups.get(key) ?? { kind, destination, scene, parts: [] };
    groups.set(key, group);
    const name = names.get(source) ?? source;
    if (afterDb === null) group.parts.push(name);
    else if (beforeDb === null) group.parts.push(`${name} (${gainText(afterDb)} dB)`);
    else group.parts.push(`${name} from ${gainText(beforeDb)} to ${gainText(afterDb)} dB`);
  }
  return [...groups.values()].map(({ kind, destination, scene, parts }) => ({
    destination,
    kind,
    text: `${scene === null ? WORDS[kind] : `In the scene “${names.get(scene) ?? scene}” ${WORDS[kind].toLowerCase()}`} ${names.get(destination) ?? destination}: ${listed(parts, 4)}.`,
  }));
}
