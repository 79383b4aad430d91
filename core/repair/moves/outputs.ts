import { notTaken, takenPairs } from '../../setup/devicePairs.ts';
import { nameOf, type SimpleEdit } from '../../setup/edits.ts';
import { DEFAULT_DEVICE, isPlugged, type Pickup, type Setup, type Source } from '../../setup/schema.ts';
import type { Device, Machine, Mix } from '../../setup/wiring.ts';
import { listed } from '../../words/figures.ts';
import type { About, Candidate } from '../candidate.ts';
import type { Room } from '../room.ts';

/** Returns what sends a sound another way: outputs of apps and mixes, default devices, what pickups take and what is heard at destinations. */
export function outputs(room: Room, about: About): Candidate[] {
  const source = room.source(about.source);
  if (!source) return [];
  return [
    ...appOutputs(room, source),
    ...defaultOutputs(room, source),
    ...mixOutputs(room, source.id),
    ...pickupTakes(room, about),
    ...takesExchanged(room, about),
    ...hearing(room, about),
    ...hearingWhatIsWanted(room, about),
    ...chatExchanged(room),
    ...cables(room, about),
  ];
}

/** The devices that an app of a machine can play into, or a cable of what is plugged in can end at. */
function choicesFor(room: Room, source: Source): Device[] {
  const plugged = isPlugged(source.kind);
  const now = room.device(room.deviceOf(source));
  return room.setup.devices.filter((one) => {
    if (one.machine !== source.machine || one.id === now?.id) return false;
    // What is plugged in stays at sockets like the one that it is plugged into.
    return plugged
      ? now && one.kind === 'physical' && one.direction === now.direction
      : one.direction === 'out';
  });
}

/** The app plays into another device of its machine, together with all that moves with it. */
export function appOutputs(room: Room, source: Source): Candidate[] {
  if (source.machine === undefined) return [];
  const together = room.movesWith(source);
  const name = room.appName(source);
  const into = (id: string) =>
    together.map((one): SimpleEdit => ({ edit: 'updateSource', id: one.id, values: { into: id } }));
  const now = whereItPlays(room, source);
  const choices = choicesFor(room, source).map(
    (one): Candidate => ({
      ...(isPlugged(source.kind)
        ? {
            label: `Plug ${name} into “${one.name}”`,
            fault: `${name} is plugged into ${now}, not into “${one.name}”`,
          }
        : {
            label: `Let ${name} play into “${one.name}”`,
            fault: `${name} plays into ${now}, not into “${one.name}”`,
          }),
      edits: into(one.id),
    }),
  );
  const machine = room.setup.machines.find(({ id }) => id === source.machine);
  const toDefault: Candidate[] =
    !isPlugged(source.kind) && machine?.defaultOutput && source.into !== DEFAULT_DEVICE
      ? [
          {
            label: `Let ${name} play into the default output of ${machine.name}`,
            fault: `${name} plays into ${now}, not into the default output of ${machine.name}`,
            edits: into(DEFAULT_DEVICE),
          },
        ]
      : [];
  return [...choices, ...toDefault];
}

/** How a creator calls the device that a source plays into now. */
function whereItPlays(room: Room, source: Source): string {
  if (source.into === DEFAULT_DEVICE) return 'the default output';
  const device = room.device(room.deviceOf(source));
  return device ? `“${device.name}”` : 'nothing';
}

/** Another output becomes the default of the machine that a source leaves the choice to. */
function defaultOutputs(room: Room, source: Source): Candidate[] {
  const machine = room.setup.machines.find(({ id }) => id === source.machine);
  if (!machine || source.into !== DEFAULT_DEVICE) return [];
  return otherDefaults(room.setup, machine);
}

/** Every other output of a machine, as its default. */
export function otherDefaults(setup: Setup, { id, name, defaultOutput }: Machine): Candidate[] {
  const now = defaultOutput === undefined ? 'none' : `“${nameOf(setup, defaultOutput)}”`;
  return setup.devices
    .filter((one) => one.machine === id && one.direction === 'out' && one.id !== defaultOutput)
    .map((one) => ({
      label: `Make “${one.name}” the default output of ${name}`,
      fault: `The default output of ${name} is ${now}, not “${one.name}”`,
      edits: [{ edit: 'updateMachine', id, values: { defaultOutput: one.id } }],
    }));
}

/** A mix that a source passes plays into another output of its machine: besides those that it has, or instead of one. */
function mixOutputs(room: Room, source: string): Candidate[] {
  return room.setup.mixes
    .filter(({ id }) => room.passes(source, id))
    .flatMap((mix) => {
      return otherOutputs(room, mix).flatMap(({ id, name }): Candidate[] => [
        ...mix.into.map((instead) => playingInstead(room, mix, instead, id)),
        {
          label: `Let the mix “${mix.name}” play into “${name}”${mix.into.length > 0 ? ' too' : ''}`,
          fault: `The mix “${mix.name}” does not play into “${name}”`,
          edits: [{ edit: 'updateMix', id: mix.id, values: { into: [...mix.into, id] } }],
        },
      ]);
    });
}

/** The outputs of its machine that a mix does not play into. */
export function otherOutputs({ setup }: Room, mix: Mix): Device[] {
  return setup.devices.filter(
    ({ id, machine, direction }) => machine === mix.machine && direction === 'out' && !mix.into.includes(id),
  );
}

/** A mix plays into another output instead of one that it has. */
export function playingInstead(
  room: Room,
  { id, name, into }: Mix,
  instead: string,
  output: string,
): Candidate {
  return {
    label: `Let the mix “${name}” play into “${room.name(output)}” instead of “${room.name(instead)}”`,
    fault: `The mix “${name}” plays into “${room.name(instead)}”, not into “${room.name(output)}”`,
    edits: [{ edit: 'updateMix', id, values: { into: into.map((one) => (one === instead ? output : one)) } }],
  };
}

/** A pickup that leads to the destination takes something else: what carries the source, or, where it must not come, anything but that. */
function pickupTakes(room: Room, { source, destination: destinationId }: About): Candidate[] {
  const { setup } = room;
  const destination = room.destination(destinationId);
  const own = room.source(source);
  const recorder = setup.recorder.machine;
  const isHere = (machine: string | undefined) =>
    recorder === undefined || machine === undefined || machine === recorder;
  const isWanted = destination !== undefined && room.wishDb(source, destination) !== null;
  const leading = destination ? room.leadingTo(destination) : null;
  const takeable = [
    ...setup.devices.filter(({ machine }) => isHere(machine)),
    ...setup.sources.filter(({ machine, into }) => isHere(machine) && room.device(into)?.direction !== 'in'),
  ];
  return setup.pickups
    .filter(({ id }) => !leading || leading.has(id))
    .flatMap((pickup) => {
      const carries = room.passes(source, pickup.id);
      return notTaken(setup, takeable)
        .filter(({ id }) => id !== pickup.takes)
        .filter((one) => {
          const { id } = one;
          const carriesIt = takenPairs(setup, { takes: id, ...one }).some((each) =>
            room.passes(source, each),
          );
          // What is wanted may come with something else, or at another level than it would from another device.
          if (!carries || isWanted) return id === source || (own !== undefined && carriesIt);
          return id !== source && !carriesIt && bringsWanted(room, pickup.id, id);
        })
        .map(
          ({ id, name, pairs }): Candidate => ({
            label: `Let ${room.pickupName(pickup.id)} take “${name}” instead of “${room.name(pickup.takes)}”`,
            fault: `${room.pickupName(pickup.id)} takes “${room.name(pickup.takes)}”, not “${name}”`,
            edits: [{ edit: 'updatePickup', id: pickup.id, values: { takes: id, ...(pairs && { pairs }) } }],
          }),
        );
    });
}

/** Two pickups take what the other one takes: one that leads to the destination, and one that the source comes to. */
function takesExchanged(room: Room, { source, destination: destinationId }: About): Candidate[] {
  const destination = room.destination(destinationId);
  if (!destination || room.wishDb(source, destination) === null) return [];
  const leading = room.leadingTo(destination);
  const given = ({ id }: Pickup, { takes, pairs }: Pickup): SimpleEdit => ({
    ...{ edit: 'updatePickup', id, values: { takes, ...(pairs && { pairs }) } },
    ...(!pairs && { clear: ['pairs'] }),
  });
  return room.setup.pickups
    .filter(({ id }) => leading.has(id) && !room.passes(source, id))
    .flatMap((one) =>
      room.setup.pickups
        .filter(({ id, takes }) => id !== one.id && takes !== one.takes && room.passes(source, id))
        .map((other): Candidate => {
          const names = `“${room.name(one.takes)}” and “${room.name(other.takes)}”`;
          return {
            label: `Exchange ${names} in the recorder, so that each goes to the tracks of the other`,
            fault: `${names} are exchanged in the recorder: each goes to the tracks of the other`,
            edits: [given(one, other), given(other, one)],
          };
        }),
    );
}

/** Tells whether a device or an app carries something that is wanted where a pickup is sent to. */
function bringsWanted(room: Room, pickup: string, taken: string): boolean {
  const fed = room.judged.destinations.filter(({ sendTo }) =>
    room.setup.sends.some((send) => send.pickup === pickup && send.to === sendTo),
  );
  return room.setup.sources.some(
    ({ id }) => room.passes(id, taken) && fed.some((destination) => room.wishDb(id, destination) !== null),
  );
}

/** A destination hears another device: instead of one that it hears, or, on the same machine, besides it. */
function hearing(room: Room, { source, destination }: About): Candidate[] {
  const heardAt = room.setup.destinations.find(({ id }) => id === destination);
  if (!heardAt || heardAt.kind === 'live' || heardAt.kind === 'vod') return [];
  const now = heardAt.hears ?? [];
  const arrives = now.some((id) => room.passes(source, id));
  const machines = new Set(now.map((id) => room.device(id)?.machine));
  const callMachines = new Set(
    room.setup.sources.filter(({ kind }) => kind === 'voice chat').map(({ machine }) => machine),
  );
  const choices = room.setup.devices.filter(({ id, machine, direction }) => {
    if (now.includes(id) || (!arrives && !room.passes(source, id))) return false;
    // A chat app takes devices of the machine that it runs on; others hear outputs.
    if (heardAt.kind === 'friends') return callMachines.size === 0 || callMachines.has(machine);
    return direction === 'out';
  });
  return choices.flatMap(({ id, name, machine }): Candidate[] => [
    ...now.map((instead) => ({
      label: `Let ${heardAt.name} hear “${name}” instead of “${room.name(instead)}”`,
      fault: `What is heard at ${heardAt.name} is “${room.name(instead)}”, not “${name}”`,
      edits: heard(
        heardAt.id,
        now.map((one) => (one === instead ? id : one)),
      ),
    })),
    ...(!arrives && heardAt.kind !== 'friends' && (now.length === 0 || machines.has(machine))
      ? [
          {
            label: `Let ${heardAt.name} hear “${name}”${now.length > 0 ? ' too' : ''}`,
            fault: `“${name}” is not heard at ${heardAt.name}`,
            edits: heard(heardAt.id, [...now, id]),
          },
        ]
      : []),
    ...(!arrives && heardAt.kind === 'friends' && now.length === 0
      ? [
          {
            label: `Let the chat app take “${name}” as its microphone`,
            fault: 'The chat app takes no microphone',
            edits: heard(heardAt.id, [id]),
          },
        ]
      : []),
  ]);
}

/**
 * A destination hears all outputs of a machine that carry only what is wanted there. Where it hears a device already, the machine is that
 * of this device.
 */
function hearingWhatIsWanted(room: Room, { destination: destinationId }: About): Candidate[] {
  const heardAt = room.setup.destinations.find(({ id }) => id === destinationId);
  const destination = room.destination(destinationId);
  if (!heardAt?.hears || !destination || heardAt.kind === 'friends') return [];
  const now = heardAt.hears;
  const machines = now.length > 0 ? [room.device(now[0])?.machine] : room.setup.machines.map(({ id }) => id);
  return machines.flatMap((machine): Candidate[] => {
    const meant = room.setup.devices.filter((one) => {
      if (one.machine !== machine || one.direction !== 'out' || one.kind !== 'physical') return false;
      const carried = room.sourcesAt(one.id);
      return carried.length > 0 && carried.every((id) => room.wishDb(id, destination) !== null);
    });
    const ids = meant.map(({ id }) => id);
    if (ids.length < 2 || ids.length > 8 || ids.join() === now.join()) return [];
    const names = listed(meant.map(({ name }) => `“${name}”`));
    return [
      {
        label: `Let ${heardAt.name} hear ${names}`,
        fault:
          now.length > 0
            ? `What is heard at ${heardAt.name} is not ${names}`
            : `Nothing is heard at ${heardAt.name}`,
        edits: heard(heardAt.id, ids),
      },
    ];
  });
}

function heard(id: string, hears: string[]): SimpleEdit[] {
  return [{ edit: 'updateDestination', id, values: { hears } }];
}

/** The input and the output of the chat app are exchanged. */
function chatExchanged(room: Room): Candidate[] {
  const { setup } = room;
  return setup.destinations
    .filter(({ kind }) => kind === 'friends')
    .flatMap((friends): Candidate[] => {
      const [input] = friends.hears ?? [];
      const voices = setup.sources.filter(({ kind }) => kind === 'voice chat');
      const outputsNow = new Set(voices.map((one) => room.deviceOf(one)));
      const [output] = outputsNow;
      if (outputsNow.size !== 1 || input === undefined || output === undefined || input === output) return [];
      if (room.device(input)?.machine !== voices[0].machine || room.device(input)?.direction !== 'out')
        return [];
      return [
        {
          fault: 'The chat app’s input and output are crossed',
          label: `Exchange the chat app’s output and microphone: it plays into “${room.name(input)}” and takes “${room.name(output)}”`,
          edits: [
            ...heard(friends.id, [output]),
            ...voices.map(({ id }): SimpleEdit => ({ edit: 'updateSource', id, values: { into: input } })),
          ],
        },
      ];
    });
}

/** A latency that a new cable is given at first (ms). */
const CABLE_MS = 6;

/** Cables between machines: one that carries the source ends elsewhere or begins elsewhere, or a new one is plugged in. */
function cables(room: Room, { source, destination: destinationId }: About): Candidate[] {
  const { setup } = room;
  const destination = room.destination(destinationId);
  const mayLead = destination ? room.mayLeadTo(destination) : new Set<string>();
  const isFree = (id: string) => !setup.links.some(({ to }) => to === id);
  const inputsOn = (machine: string | undefined) =>
    setup.devices.filter((one) => one.machine === machine && one.direction === 'in' && isFree(one.id));
  const moved = setup.links
    .filter(({ from }) => room.passes(source, from))
    .flatMap((link) =>
      inputsOn(room.device(link.to)?.machine).map(
        (one): Candidate => ({
          label: `Plug “${link.name}” into “${one.name}”`,
          fault: `“${link.name}” ends at “${room.name(link.to)}”, not at “${one.name}”`,
          edits: [{ edit: 'updateLink', id: link.id, values: { to: one.id } }],
        }),
      ),
    );
  const isWanted = destination !== undefined && room.wishDb(source, destination) !== null;
  const begun = setup.links
    .filter(({ to }) => mayLead.has(to))
    .flatMap((link) => {
      const machine = room.device(link.from)?.machine;
      const brings = room.passes(source, link.from);
      return (
        setup.devices
          .filter((one) => one.machine === machine && one.direction === 'out' && one.id !== link.from)
          // A source that is wanted may come from another output at its level.
          .filter(({ id }) =>
            brings && !isWanted
              ? !room.passes(source, id) && room.sourcesAt(id).length > 0
              : room.passes(source, id) || (brings && room.sourcesAt(id).length > 0),
          )
          .map(
            (one): Candidate => ({
              label: `Let “${link.name}” start at “${one.name}”`,
              fault: `“${link.name}” starts at “${room.name(link.from)}”, not at “${one.name}”`,
              edits: [{ edit: 'updateLink', id: link.id, values: { from: one.id } }],
            }),
          )
      );
    });
  const ends = setup.devices.filter(
    ({ id, direction, kind }) => direction === 'in' && kind === 'physical' && mayLead.has(id) && isFree(id),
  );
  const fresh = setup.devices
    .filter(
      ({ id, direction, kind }) => direction === 'out' && kind === 'physical' && room.passes(source, id),
    )
    .filter(({ id }) => !setup.links.some(({ from }) => from === id))
    .flatMap((from) =>
      ends
        .filter(({ machine }) => machine !== from.machine)
        .map(
          (to): Candidate => ({
            label: `Connect “${from.name}” to “${to.name}” with a cable`,
            fault: `No cable leads from “${from.name}” to “${to.name}”`,
            edits: [
              {
                edit: 'addLink',
                id: `${from.id}.cable`.slice(0, 64),
                link: {
                  name: `${from.name} to ${to.name}`.slice(0, 60),
                  from: from.id,
                  to: to.id,
                  kind: 'usb',
                  latencyMs: CABLE_MS,
                },
              },
            ],
          }),
        ),
    );
  return [...moved, ...begun, ...fresh];
}
