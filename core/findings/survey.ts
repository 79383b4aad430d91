import { type Destination, destinationsOf } from '../reach/destinations.ts';
import { graphOf } from '../reach/graph.ts';
import { type Intent, intentOf } from '../reach/intent.ts';
import { type Arrival, arrivalAt, type Reach, reachOf, type Trail, trailOf } from '../reach/reach.ts';
import type { Setup, Source } from '../setup/schema.ts';
import { listed } from '../words/figures.ts';

/** Scenes in which the same pickups sound; null: whatever the scene. */
interface State {
  scenes: string[] | null;
  at(source: string, destination: Destination): Arrival | null;
}

/** What arrives of a source at a destination in some scenes. */
export interface InScenes {
  scenes: string[] | null;
  arrival: Arrival | null;
}

/** What the rules look at: a setup, what arrives with every pickup sounding and scene by scene, and what is wanted. */
export interface Survey {
  setup: Setup;
  /** With every pickup sounding, as if all scenes were one. */
  reach: Reach;
  /** The same, without what microphones hear of loudspeakers. */
  dry: Reach;
  intent: Intent;
  today: string;
  /** What arrives of a source at a destination, for each group of scenes in which the same pickups sound. */
  inScenes(source: Source, destination: Destination): InScenes[];
}

/** Surveys a setup. @param today `YYYY-MM-DD`, for clearances that expire */
export function surveyOf(
  setup: Setup,
  today: string,
  reach: Reach = reachOf(setup),
  dry: Reach = reach,
): Survey {
  const states = statesOf(setup, reach);
  return {
    ...{ setup, reach, dry, today, intent: intentOf(setup) },
    inScenes: (source, destination) =>
      states.map(({ scenes, at }) => ({ scenes, arrival: at(source.id, destination) })),
  };
}

function statesOf(setup: Setup, reach: Reach): State[] {
  const whole = (source: string, { id }: Destination) => reach.at(source, id);
  const graph = setup.scenes.length > 0 ? graphOf(setup) : reach.graph;
  const limited = graph.edges.filter(({ scenes }) => scenes !== null);
  const bySounding = new Map<string, string[]>();
  for (const { id } of setup.scenes) {
    const silent = limited.flatMap(({ scenes, to }) => (scenes?.includes(id) ? [] : [to])).join(' ');
    bySounding.set(silent, [...(bySounding.get(silent) ?? []), id]);
  }
  if (setup.scenes.length === 0) return [{ scenes: null, at: whole }];
  return [...bySounding].map(([silent, scenes]): State => {
    const isEvery = scenes.length === setup.scenes.length;
    if (silent === '') return { scenes: isEvery ? null : scenes, at: whole };
    const silenced = new Set(
      silent.split(' ').flatMap((node) => reach.sourcesAt(graph.nodes[Number(node)].id)),
    );
    const trails = new Map<string, Trail>();
    const found = new Map<string, Arrival | null>();
    return {
      scenes: isEvery ? null : scenes,
      at: (id, destination) => {
        if (!silenced.has(id)) return whole(id, destination);
        const key = `${id} ${destination.id}`;
        const known = found.get(key);
        if (known !== undefined) return known;
        const source = setup.sources.find((one) => one.id === id) as Source;
        const trail = trails.get(id) ?? trailOf(graph, source, scenes[0]);
        trails.set(id, trail);
        const arrival = arrivalAt(trail, destination);
        found.set(key, arrival);
        return arrival;
      },
    };
  });
}

/** The scenes in which something stands, gathered from groups; null where it stands in all of them. */
export function scenesOfAll({ setup }: Survey, groups: InScenes[]): string[] | null {
  if (groups.some(({ scenes }) => scenes === null)) return null;
  const scenes = groups.flatMap((one) => one.scenes ?? []);
  return scenes.length === setup.scenes.length ? null : scenes;
}

/** Begins a sentence with the scenes in which it is so: "In the scene “Break”, "; with nothing where it is always so. */
export function inScenesText({ setup }: Survey, scenes: string[] | null): string {
  if (scenes === null) return '';
  const names = scenes.map((id) => `“${setup.scenes.find((one) => one.id === id)?.name ?? id}”`);
  return `In the ${names.length === 1 ? 'scene' : 'scenes'} ${listed(names, 3)}, `;
}

/** The sources and destinations of a survey, pair by pair. */
export function* cellsOf({ setup, reach }: Survey): Generator<{ source: Source; destination: Destination }> {
  for (const source of setup.sources)
    for (const destination of reach.destinations) yield { source, destination };
}

/** The destinations of a setup that hear devices themselves. */
export function hearsDevices(setup: Setup, { id }: Destination): boolean {
  return (setup.destinations.find((one) => one.id === id)?.hears?.length ?? 0) > 0;
}

/** The edit tracks that are written to the file. */
export function editTracksOf(setup: Setup): Destination[] {
  return destinationsOf(setup).filter(
    ({ track }) => track?.purpose === 'edit' && track.uses.includes('file'),
  );
}
