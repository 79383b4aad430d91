import type { Stereo } from '../audio/planes.ts';
import { compileDestinations } from '../engine/destinations.ts';
import { Renderer } from '../engine/renderer.ts';
import type { Setup } from '../setup/schema.ts';

/** Renders a setup from its stems, and returns what each destination gets of it. */
export function rendered(setup: Setup, stems: Stereo[]): (destinationId: string) => Stereo {
  const frames = stems[0][0].length;
  const { schedule, destinations } = compileDestinations(setup);
  const renderer = new Renderer(schedule, frames);
  renderer.render(stems, frames);
  return (id) =>
    renderer.outputs[destinations.find((destination) => destination.id === id)?.parts[0].output ?? -1];
}

/** Tells whether two sounds have every sample in common. */
export function same(a: Stereo, b: Stereo): boolean {
  return a.every((side, s) => side.every((value, i) => value === b[s][i]));
}
