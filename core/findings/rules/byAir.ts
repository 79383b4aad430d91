import type { Destination } from '../../reach/destinations.ts';
import type { Source } from '../../setup/schema.ts';
import type { Survey } from '../survey.ts';

/** Says that a sound comes through the air, where it comes no other way. */
export function byAir({ reach, dry }: Survey, { id }: Source, destination: Destination): string {
  return reach !== dry && dry.at(id, destination.id) === null
    ? ' It comes out of loudspeakers, and a microphone hears it.'
    : '';
}
