import type { SimpleEdit } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import { type Fault, fault } from './faults.ts';

/** Things that are connected wrong in a room: pickups, mixes, cables and destinations at the wrong device, mixes that are gone, uses exchanged. */
export function wiringFaultsOf(setup: Setup): Fault[] {
  return [
    ...wrongPickups(setup),
    ...wrongDefaults(setup),
    ...wrongMixes(setup),
    ...wrongCables(setup),
    ...wrongHearing(setup),
    ...exchangedUses(setup),
    ...tooMuch(setup),
  ];
}

function wrongPickups(setup: Setup): Fault[] {
  const { machine } = setup.recorder;
  return setup.pickups.flatMap((pickup) => [
    ...setup.devices
      .filter((device) => (!machine || device.machine === machine) && device.id !== pickup.takes)
      .map(({ id }) =>
        fault(`${pickup.id} takes ${id}`, { edit: 'updatePickup', id: pickup.id, values: { takes: id } }),
      ),
    fault(`${pickup.id} 15 dB up`, {
      edit: 'updatePickup',
      id: pickup.id,
      values: { gainDb: pickup.gainDb + 15 },
    }),
    fault(`${pickup.id} in no scene`, { edit: 'updatePickup', id: pickup.id, values: { scenes: [] } }),
  ]);
}

/** The default output becomes another one, and apps that named the old one follow it. */
function wrongDefaults(setup: Setup): Fault[] {
  return setup.machines.flatMap((machine) =>
    setup.devices
      .filter(
        ({ id, machine: on, direction }) =>
          on === machine.id && direction === 'out' && id !== machine.defaultOutput,
      )
      .map(({ id }) =>
        fault(
          `default of ${machine.id} ${id}`,
          { edit: 'updateMachine', id: machine.id, values: { defaultOutput: id } },
          ...setup.sources
            .filter(({ into, kind }) => into === machine.defaultOutput && kind !== 'microphone')
            .map(
              (source): SimpleEdit => ({ edit: 'updateSource', id: source.id, values: { into: 'default' } }),
            ),
        ),
      ),
  );
}

function wrongMixes(setup: Setup): Fault[] {
  return setup.mixes.flatMap((mix) => {
    const others = setup.devices.filter(
      ({ id, machine }) =>
        machine === mix.machine && !mix.inputs.some(({ from }) => from === id) && !mix.into.includes(id),
    );
    return [
      fault(`no mix ${mix.id}`, { edit: 'removeMix', id: mix.id }),
      ...others.map(({ id }) =>
        fault(`${mix.id} takes ${id} too`, {
          edit: 'setMixInput',
          mix: mix.id,
          from: id,
          values: { gainDb: 0 },
        }),
      ),
      ...mix.inputs
        .filter(({ muted }) => !muted)
        .flatMap(({ from, gainDb }) =>
          others
            .slice(0, 4)
            .map(({ id }) =>
              fault(
                `${mix.id} takes ${id} instead of ${from}`,
                { edit: 'setMixInput', mix: mix.id, from, values: null },
                { edit: 'setMixInput', mix: mix.id, from: id, values: { gainDb } },
              ),
            ),
        ),
    ];
  });
}

function wrongCables(setup: Setup): Fault[] {
  const machineOf = (id: string) => setup.devices.find((device) => device.id === id)?.machine;
  return setup.links.flatMap(({ id, from, to }) => [
    ...setup.devices
      .filter((one) => one.machine === machineOf(to) && one.direction === 'in')
      .filter((one) => !setup.links.some((link) => link.to === one.id))
      .map((one) => fault(`${id} ends at ${one.id}`, { edit: 'updateLink', id, values: { to: one.id } })),
    ...setup.devices
      .filter((one) => one.machine === machineOf(from) && one.direction === 'out' && one.id !== from)
      .map((one) => fault(`${id} starts at ${one.id}`, { edit: 'updateLink', id, values: { from: one.id } })),
  ]);
}

/** Adds a cable, a pickup or a mix that nobody needs. */
function tooMuch(setup: Setup): Fault[] {
  const isOut = ({ direction }: Setup['devices'][number]) => direction === 'out';
  const outs = setup.devices.filter(isOut);
  const ins = setup.devices.filter((one) => !isOut(one) && !setup.links.some(({ to }) => to === one.id));
  const onMixes = setup.tracks.filter(({ purpose }) => purpose !== 'edit');
  const { machine } = setup.recorder;
  return [
    ...outs.flatMap(({ id: from, kind, machine: on }) =>
      ins
        .filter((one) => one.machine !== on && kind === 'physical' && one.kind === 'physical')
        .map(({ id: to }) =>
          fault(`a cable from ${from} to ${to}`, {
            edit: 'addLink',
            id: `cable-${from}-${to}`,
            link: { name: `${from} to ${to}`, from, to, kind: 'usb', latencyMs: 5 },
          }),
        ),
    ),
    ...setup.devices
      .filter((one) => !machine || one.machine === machine)
      .map(({ id }) =>
        fault(
          `a pickup of ${id} too`,
          { edit: 'addPickup', id: `${id}-too`, pickup: { takes: id, gainDb: 0 } },
          ...onMixes.map(
            (track): SimpleEdit => ({ edit: 'setSend', pickup: `${id}-too`, to: track.id, gainDb: 0 }),
          ),
        ),
      ),
    ...outs.flatMap(({ id: into, machine: on }) =>
      setup.devices
        .filter((one) => one.machine === on && one.id !== into)
        .map(({ id: from }) =>
          fault(`a mix of ${from} into ${into}`, {
            edit: 'addMix',
            id: `mix-${from}-${into}`,
            mix: { name: `${from} into ${into}`, machine: on, inputs: [{ from, gainDb: 0 }], into: [into] },
          }),
        ),
    ),
  ];
}

function wrongHearing(setup: Setup): Fault[] {
  return setup.destinations
    .filter(({ hears }) => hears?.length)
    .flatMap(({ id, hears = [] }) => {
      const machine = setup.devices.find((device) => device.id === hears[0])?.machine;
      return [
        fault(`${id} hear nothing`, { edit: 'updateDestination', id, values: { hears: [] } }),
        ...setup.devices
          .filter((one) => one.machine === machine && one.direction === 'out' && !hears.includes(one.id))
          .map((one) =>
            fault(`${id} hear ${one.id} too`, {
              edit: 'updateDestination',
              id,
              values: { hears: [...hears, one.id] },
            }),
          ),
      ];
    });
}

function exchangedUses(setup: Setup): Fault[] {
  return setup.tracks.flatMap((one, at) =>
    setup.tracks
      .slice(at + 1)
      .filter((other) => other.uses.join() !== one.uses.join())
      .map((other) =>
        fault(
          `uses of ${one.id} and ${other.id} exchanged`,
          { edit: 'updateTrack', id: one.id, values: { uses: other.uses } },
          { edit: 'updateTrack', id: other.id, values: { uses: one.uses } },
        ),
      ),
  );
}
