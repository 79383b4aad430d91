import { renamedFor } from '../../setup/airEdits.ts';
import type { Candidate } from '../candidate.ts';
import type { Room } from '../room.ts';

/** What keeps loudspeakers out of microphones: headphones in their place, or silence. @param only some loudspeakers; all where it is left out */
export function airMoves({ setup }: Room, only?: string | null): Candidate[] {
  const heard = new Set((setup.air ?? []).map(({ destination }) => destination));
  return setup.destinations
    .filter(({ id, kind }) => kind === 'loudspeakers' && heard.has(id) && (!only || id === only))
    .flatMap(({ id, name }): Candidate[] => {
      const fault = `A microphone in the room hears ${name}`;
      return [
        {
          label: `Listen on headphones instead of ${name}`,
          fault,
          edits: [
            {
              edit: 'updateDestination',
              id,
              values: { kind: 'headphones', name: renamedFor('headphones', name) },
            },
          ],
        },
        {
          label: `Mute ${name}`,
          fault,
          edits: [{ edit: 'updateDestination', id, values: { hears: [] } }],
        },
      ];
    });
}
