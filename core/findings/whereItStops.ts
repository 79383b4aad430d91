import { deviceOf } from '../reach/graph.ts';
import type { Reach } from '../reach/reach.ts';
import type { Setup, Source } from '../setup/schema.ts';

/**
 * Says how far a source gets that does not arrive: the place after which nothing takes it up, or what is closed.
 * Undefined when a pickup takes it.
 */
export function whereItStops(setup: Setup, reach: Reach, source: Source): string | undefined {
  if (setup.pickups.some(({ id }) => reach.sourcesAt(id).includes(source.id))) return undefined;
  const muted = setup.mixes.find((mix) =>
    mix.inputs.some(
      (input) => input.muted && (input.from === source.id || reach.sourcesAt(input.from).includes(source.id)),
    ),
  );
  if (muted) return `it is muted in the mix “${muted.name}”`;
  const device = deviceOf(setup, source);
  if (device === undefined) return 'no pickup takes it';
  const place = reach.graph.nodes[reach.graph.indexOf.get(device) as number]?.place;
  return `it plays into ${place ?? 'nothing'}, and no pickup takes it from there`;
}
