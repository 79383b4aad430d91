import type { Finding } from '../findings/finding.ts';
import { findingsOf } from '../findings/findings.ts';
import { changesBetween, type ReachChange } from '../reach/changes.ts';
import { reachOf } from '../reach/reach.ts';
import type { Setup } from '../setup/schema.ts';
import type { Drill, Struck } from './drill.ts';

/** At one destination: how many sources a drill takes away, brings, and makes louder or quieter. */
export interface DrillCount {
  lost: number;
  gained: number;
  moved: number;
}

/** Counts what a drill does at a destination. */
export function countAt({ changes }: DrillResult, destination: string): DrillCount {
  const count = { lost: 0, gained: 0, moved: 0 };
  for (const change of changes) {
    if (change.destination !== destination) continue;
    if (change.afterDb === null) count.lost += 1;
    else if (change.beforeDb === null) count.gained += 1;
    else count.moved += 1;
  }
  return count;
}

/** How a drill goes: what changes at which destination, and which findings it would bring. */
export interface DrillResult {
  changes: ReachChange[];
  findings: Finding[];
  /** Names of the sources and destinations in `changes`, those that the drill brings with it too. */
  names: Map<string, string>;
}

/** A drill, and how it goes. */
export interface DrillRun {
  drill: Drill;
  result: DrillResult;
}

/** Puts a setup through every drill. @param today as for findings */
export function runDrills(setup: Setup, drills: Drill[], today: string): DrillRun[] {
  const known = findingsOf(setup, today);
  return drills.map((drill) => ({ drill, result: runDrill(setup, drill, today, known) }));
}

/**
 * Puts a setup through a drill and compares.
 * @param today as for findings
 * @param known what is found in the setup as it is
 */
export function runDrill(
  setup: Setup,
  drill: Drill,
  today: string,
  known = findingsOf(setup, today),
): DrillResult {
  const struck = drill.strike(setup);
  if (!struck) return { changes: [], findings: [], names: new Map() };
  const before = reachOf(setup);
  const after = reachOf(struck.setup, { scene: struck.scene });
  const sources = new Map([...setup.sources, ...struck.setup.sources].map(({ id, name }) => [id, name]));
  const changes = changesBetween(before, after, [...sources.keys()]);
  const places = [...before.destinations, ...after.destinations].map(({ id, name }) => [id, name] as const);
  const all = new Map([...sources, ...places]);
  const names = new Map(
    changes.flatMap(({ source, destination }) =>
      [source, destination].map((id) => [id, all.get(id) ?? id] as const),
    ),
  );
  return { changes, findings: newFindings(known, struck, today), names };
}

/**
 * The findings that a drill brings: those of the struck setup that are not known. Of a scene, those that stand in it.
 * @param known what is found in the setup as it is
 */
export function newFindings(known: Finding[], { setup, scene }: Struck, today: string): Finding[] {
  if (scene !== undefined) return known.filter(({ scenes }) => scenes?.includes(scene) ?? false);
  const ids = new Set(known.map(({ id }) => id));
  return findingsOf(setup, today).filter(({ id }) => !ids.has(id));
}
