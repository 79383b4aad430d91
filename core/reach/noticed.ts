import type { Reach } from './reach.ts';

/** What somebody would no longer hear if a place went: the destination, and the sources that come there by no other way. */
export interface Loss {
  destination: string;
  sources: string[];
}

/**
 * Returns, for every place that some sound passes, who would notice if it went: where every path of a source to a destination leads
 * over it. (Of a sound with more than 64 paths, the loudest are looked at.)
 */
export function lossesOf(reach: Reach, sources: readonly { id: string }[]): Map<string, Loss[]> {
  const found = new Map<string, Loss[]>();
  for (const { id } of sources)
    for (const { id: destination } of reach.destinations) {
      const [first, ...others] = reach.at(id, destination)?.places ?? [];
      for (const place of new Set(first))
        if (others.every((path) => path.includes(place))) addTo(found, place, destination, id);
    }
  return found;
}

function addTo(found: Map<string, Loss[]>, place: string, destination: string, source: string): void {
  const losses = found.get(place) ?? [];
  found.set(place, losses);
  const known = losses.find((one) => one.destination === destination);
  if (known) known.sources.push(source);
  else losses.push({ destination, sources: [source] });
}
