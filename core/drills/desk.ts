import { inOneRoom } from '../setup/airEdits.ts';
import { nameOf } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import type { Drill } from './drill.ts';
import { struckBy } from './strike.ts';

/** Somebody listens in on a mix of a desk that re-routes what it hands over. */
export function listeningIn(setup: Setup): Drill[] {
  const linked = new Set(setup.links.map((link) => link.from));
  const heard = new Set(
    setup.destinations.filter((one) => one.kind === 'headphones').flatMap((one) => one.hears ?? []),
  );
  return setup.mixes
    .filter((mix) => {
      const isDesk = setup.machines.find((machine) => machine.id === mix.machine)?.kind === 'desk';
      return isDesk && mix.into.some((device) => linked.has(device));
    })
    .flatMap((mix): Drill[] => {
      const phones = setup.devices.find((device) => device.machine === mix.machine && heard.has(device.id));
      if (!phones) return [];
      return [
        {
          id: `listen.${mix.id}`,
          kind: 'listening in',
          label: `You listen in on “${mix.name}”, and ${nameOf(setup, mix.machine)} re-routes it to your headphones`,
          strike: (now) =>
            struckBy(now, [{ edit: 'updateMix', id: mix.id, values: { listenedOn: phones.id } }]),
        },
      ];
    });
}

/** A scene goes on air. */
export function scenes(setup: Setup): Drill[] {
  return setup.scenes.map((scene) => ({
    id: `scene.${scene.id}`,
    kind: 'scene',
    label: `The scene “${scene.name}” goes on air`,
    strike: (now) => (now.scenes.some((one) => one.id === scene.id) ? { setup: now, scene: scene.id } : null),
  }));
}

/** The headphones come off, and loudspeakers play in the room of the microphones. */
export function headphonesOff(setup: Setup): Drill[] {
  return setup.destinations
    .filter(({ kind }) => kind === 'headphones')
    .map(({ id, name }) => ({
      id: `loudspeakers.${id}`,
      kind: 'headphones off',
      label: `Loudspeakers play in place of ${name}`,
      strike: (now) =>
        struckBy(now, [
          { edit: 'updateDestination', id, values: { kind: 'loudspeakers' } },
          ...inOneRoom(now, id),
        ]),
    }));
}
