import { type Graph, sameApp } from '../reach/graph.ts';
import { takenPairs } from '../setup/devicePairs.ts';
import { DEFAULT_DEVICE, type Setup } from '../setup/schema.ts';
import type { Judged } from './judged.ts';

/** Lists of which a change may touch every source; they change seldom. */
const TOUCH_ALL = ['devices', 'scenes', 'groups', 'tracks', 'recorder'] as const;

/**
 * Returns the sources whose way may differ between a setup that was judged and another: those that come to where the difference is.
 * Null where it may be any. (A new path of a source leads over what was there before as far as the first thing that is new.)
 */
export function affectedBy(before: Judged, setup: Setup, graph: Graph): Set<string> | null {
  const old = before.setup;
  if (old === setup) return new Set();
  if (graph.loops.length > 0 || before.graph.loops.length > 0) return null;
  for (const list of TOUCH_ALL) if (old[list] !== setup[list] && !isOnlyLonger(list, old, setup)) return null;
  const places = new Set<string>();
  for (const [a, b] of changed(old.sources, setup.sources)) {
    if (a && b && (a.app !== b.app || a.machine !== b.machine)) return null;
    places.add((a ?? b)?.id ?? '');
  }
  for (const [a, b] of changed(old.machines, setup.machines))
    for (const { id, into, machine } of setup.sources)
      if (into === DEFAULT_DEVICE && machine === (a ?? b)?.id) places.add(id);
  for (const [a, b] of changed(old.mixes, setup.mixes)) {
    if (a && b && a.into === b.into && a.processing === b.processing && a.listenedOn === b.listenedOn) {
      for (const [from, to] of differing(a.inputs, b.inputs, ({ from }) => from))
        places.add((from ?? to)?.from ?? '');
      continue;
    }
    for (const one of [a, b]) if (one) places.add(one.id);
    for (const { from } of b?.inputs ?? []) places.add(from);
  }
  for (const [a, b] of changed(old.links, setup.links))
    for (const one of [a, b]) if (one) places.add(one.from);
  for (const [a, b] of changed(old.pickups, setup.pickups)) {
    for (const one of [a, b]) {
      if (!one) continue;
      const app = setup.sources.find(({ id }) => id === one.takes);
      for (const id of app ? sameApp(setup, app).map((each) => each.id) : takenPairs(setup, one))
        places.add(id);
    }
  }
  if (old.sends !== setup.sends) {
    const kept = new Set(setup.sends);
    const known = new Set(old.sends);
    for (const send of old.sends) if (!kept.has(send)) places.add(send.pickup);
    for (const send of setup.sends) if (!known.has(send)) places.add(send.pickup);
  }
  for (const [a, b] of changed(old.destinations, setup.destinations))
    for (const one of [a, b]) for (const device of one?.hears ?? []) places.add(device);
  const touched = new Set<string>();
  for (const [id, { passes }] of before.bySource) {
    for (const place of places) {
      if (!passes.has(place)) continue;
      touched.add(id);
      break;
    }
  }
  return touched;
}

/** Devices that are only added carry nothing yet. */
function isOnlyLonger(list: (typeof TOUCH_ALL)[number], old: Setup, setup: Setup): boolean {
  return list === 'devices' && old.devices.every((device, i) => setup.devices[i] === device);
}

function changed<T extends { id: string }>(old: T[], now: T[]): [T | undefined, T | undefined][] {
  return old === now ? [] : differing(old, now, ({ id }) => id);
}

/** The pairs of things, by key, that are not the same in both lists; one of a pair is missing where it came or went. */
function differing<T>(old: T[], now: T[], keyOf: (one: T) => string): [T | undefined, T | undefined][] {
  const before = new Map(old.map((one) => [keyOf(one), one]));
  const pairs: [T | undefined, T | undefined][] = [];
  for (const one of now) {
    const was = before.get(keyOf(one));
    before.delete(keyOf(one));
    if (was !== one) pairs.push([was, one]);
  }
  for (const was of before.values()) pairs.push([was, undefined]);
  return pairs;
}
