import { lineFaults } from '../findings/lineFaults.ts';
import type { GraphEdge } from '../reach/graph.ts';
import { inputDriftPpm } from '../setup/clocks.ts';
import type { Judged } from './judge.ts';
import type { Trouble, TroubleKind } from './weights.ts';

/** Nothing may get worse by more than this. */
const WORSE_FROM = 0.5;

/** How many places weigh less in a setup than in another, and still weigh. */
export function halfMended(before: Judged, after: Judged): number {
  let count = 0;
  for (const [id, { troubles }] of after.bySource) {
    const was = before.bySource.get(id)?.troubles ?? [];
    if (was === troubles) continue;
    const weights = new Map<string, number>();
    for (const { place, weight } of was) weights.set(place, (weights.get(place) ?? 0) + weight);
    for (const { place, weight } of troubles)
      if (weight >= 1 && (weights.get(place) ?? 0) > weight + WORSE_FROM) count += 1;
  }
  return count;
}

/** How much less the places of a setup weigh in another, those that weigh more left out. */
export function putRight(before: Judged, after: Judged): number {
  let sum = fallen(before.flaws, after.flaws);
  for (const [id, { troubles }] of before.bySource)
    sum += fallen(troubles, after.bySource.get(id)?.troubles ?? []);
  return sum;
}

function fallen(was: Trouble[], is: Trouble[]): number {
  if (was === is) return 0;
  const left = new Map<string, number>();
  for (const { place, weight } of was) left.set(place, (left.get(place) ?? 0) + weight);
  for (const { place, weight } of is) if (left.has(place)) left.set(place, (left.get(place) ?? 0) - weight);
  let sum = 0;
  for (const weight of left.values()) sum += Math.max(0, weight);
  return sum;
}

/**
 * How many legs are gone that led to where something that is wanted is still missing: it may have been meant to come that way.
 */
export function waysLost(before: Judged, after: Judged): number {
  const missing = new Set<string>();
  for (const { troubles } of after.bySource.values())
    for (const { kind, destination } of troubles)
      if (kind === 'missing' && destination) missing.add(destination);
  if (missing.size === 0 || before.graph.edges.length === 0) return 0;
  const keyOf = ({ graph }: Judged, { from, to }: GraphEdge) =>
    `${graph.nodes[from].id} ${graph.nodes[to].id}`;
  const kept = new Set(after.graph.edges.map((edge) => keyOf(after, edge)));
  const gone = before.graph.edges.filter((edge) => !kept.has(keyOf(before, edge)));
  if (gone.length === 0) return 0;
  const leading = new Set<number>();
  for (const { id, sendTo } of before.destinations) {
    const node = sendTo === null ? undefined : before.graph.indexOf.get(sendTo);
    if (missing.has(id) && node !== undefined) leading.add(node);
  }
  for (const node of leading) for (const edge of before.graph.entering[node]) leading.add(edge.from);
  return gone.filter(({ to }) => leading.has(to)).length;
}

/** What a sound that arrives may bring along. */
const COMES_ALONG = new Set<TroubleKind>(['unwanted', 'copies', 'off', 'late']);

/** What may not come up instead of something else at the same place, however much that weighs. */
const NEVER_INSTEAD = new Set<TroubleKind>(['forbidden', 'loop', 'echo', 'impossible', 'missing']);

/** Tells whether anything weighs more in a setup than in another. */
export function worsened(before: Judged, after: Judged): boolean {
  for (const _ of eachWorse(before, after)) return true;
  return false;
}

/**
 * Returns what weighs more in a setup than in another, place by place and scene by scene. What is wrong in one scene already may come
 * up in another: a sound that is opened there brings its faults along.
 */
export function worse(before: Judged, after: Judged): Trouble[] {
  return [...eachWorse(before, after)];
}

function* eachWorse(before: Judged, after: Judged): Generator<Trouble> {
  const { scenes } = after.setup;
  const all = scenes.length > 0 ? scenes.map(({ id }) => id) : [''];
  for (const one of compared(before.flaws, after.flaws, all)) if (!isOldLine(before, one)) yield one;
  for (const [id, { troubles }] of after.bySource)
    yield* compared(before.bySource.get(id)?.troubles ?? [], troubles, all);
}

/**
 * Tells whether a line or a device had the same fault before, unheard because nothing came over it. A sound that is led over it brings
 * that fault along; the act itself did not make it.
 */
function isOldLine({ setup }: Judged, { kind, detail }: Trouble): boolean {
  if (kind !== 'line') return false;
  return (
    setup.links.some((link) => lineFaults(setup, link).some((fault) => detail === `${fault} ${link.id}`)) ||
    setup.devices.some((one) => detail === `own-clock ${one.id}` && inputDriftPpm(setup, one) !== 0)
  );
}

function* compared(was: Trouble[], is: Trouble[], all: string[]): Generator<Trouble> {
  if (was === is || is.length === 0) return;
  const old = weightsOf(was);
  const now = weightsOf(is);
  for (const one of is) {
    const scenes = one.scene === null ? all : [one.scene];
    const isMoreOf = (place: string) =>
      scenes.some((scene) => weightIn(now, place, scene) > weightIn(old, place, scene) + WORSE_FROM);
    if (isMoreOf(one.place) && !comesAlong(was, one)) yield one;
    else if (NEVER_INSTEAD.has(one.kind) && isMoreOf(`${one.place} ${one.kind}`)) yield one;
  }
}

function comesAlong(was: Trouble[], { kind, destination, scene }: Trouble): boolean {
  if (!COMES_ALONG.has(kind)) return false;
  return was.some(
    (one) =>
      one.kind === kind && one.destination === destination && one.scene !== null && one.scene !== scene,
  );
}

/** Weights by place and scene; under the empty word what stands whatever the scene. */
type Weights = Map<string, Map<string, number> | number>;
const knownWeights = new WeakMap<Trouble[], Weights>();

function weightsOf(troubles: Trouble[]): Weights {
  let weights = knownWeights.get(troubles);
  if (weights) return weights;
  weights = new Map();
  for (const { place, kind, scene, inOne } of troubles) {
    addTo(weights, place, scene, inOne);
    if (NEVER_INSTEAD.has(kind)) addTo(weights, `${place} ${kind}`, scene, inOne);
  }
  knownWeights.set(troubles, weights);
  return weights;
}

function addTo(weights: Weights, place: string, scene: string | null, weight: number): void {
  const here = weights.get(place) ?? 0;
  if (scene === null && typeof here === 'number') {
    weights.set(place, here + weight);
    return;
  }
  const byScene = typeof here === 'number' ? new Map([['', here]]) : here;
  byScene.set(scene ?? '', (byScene.get(scene ?? '') ?? 0) + weight);
  weights.set(place, byScene);
}

function weightIn(weights: Weights, place: string, scene: string): number {
  const here = weights.get(place) ?? 0;
  if (typeof here === 'number') return here;
  return (here.get('') ?? 0) + (scene === '' ? 0 : (here.get(scene) ?? 0));
}
