import type { GraphNode } from './graph.ts';
import type { Reach } from './reach.ts';

/** What comes into a place and where it goes on to, each with what happens on the leg. */
export interface Neighbours {
  from: { id: string; place: string; what: string }[];
  to: { id: string; place: string; what: string }[];
}

/** Returns the neighbours of every place of a setup's graph, by id. */
export function neighboursOf({ graph }: Reach): Map<string, Neighbours> {
  const found = new Map(graph.nodes.map(({ id }) => [id, { from: [], to: [] } as Neighbours]));
  for (const edge of graph.edges) {
    const [from, to] = [graph.nodes[edge.from], graph.nodes[edge.to]];
    // Of a pickup of several pairs of channels, each pair has a node of its own; they are one thing.
    const [before, after] = [found.get(to.id)?.from, found.get(from.id)?.to];
    if (!before?.some(({ id }) => id === from.id))
      before?.push({ id: from.id, place: from.place, what: edge.what });
    if (!after?.some(({ id }) => id === to.id))
      after?.push({ id: to.id, place: heardBy(to), what: edge.what });
  }
  return found;
}

/** Destinations are named after who they belong to, not after the mix that is made for them. */
function heardBy({ kind, place }: GraphNode): string {
  return kind === 'destination' ? place.replace(/^Mix for /, '') : place;
}
