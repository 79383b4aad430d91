import type { Finding } from '../../findings/finding.ts';
import { isCalledSo, isOverruled, sameApp } from '../../reach/graph.ts';
import { pairsOfDevice } from '../../setup/devicePairs.ts';
import { nameOf } from '../../setup/edits.ts';
import { DEFAULT_DEVICE } from '../../setup/schema.ts';
import type { Device } from '../../setup/wiring.ts';
import type { Candidate } from '../candidate.ts';
import type { Room } from '../room.ts';

/** What is put right at a line between two machines: an isolator, or a clock that follows. */
export function lineMoves({ setup }: Room, { code, detail }: Pick<Finding, 'code' | 'detail'>): Candidate[] {
  const link = setup.links.find(({ id }) => id === detail);
  if (!link) return [];
  const [verb, values] =
    code === 'hum-risk'
      ? (['Put an isolator into', { isolated: true }] as const)
      : (['Let the far end follow the clock of', { converted: true }] as const);
  const fault =
    code === 'hum-risk'
      ? `“${link.name}” hums`
      : `The two ends of “${link.name}” run on clocks or rates of their own`;
  return [{ label: `${verb} “${link.name}”`, fault, edits: [{ edit: 'updateLink', id: link.id, values }] }];
}

/** An app that plays into whatever is the default names the device itself. */
export function pins(room: Room, sourceId: string): Candidate[] {
  const source = room.source(sourceId);
  const device = source?.into === DEFAULT_DEVICE ? room.deviceOf(source) : undefined;
  if (!source || device === undefined) return [];
  return [
    {
      label: `Choose “${nameOf(room.setup, device)}” in ${source.name} itself`,
      fault: `${source.name} leaves its output to the computer`,
      edits: [{ edit: 'updateSource', id: source.id, values: { into: device } }],
    },
  ];
}

/** A stuck app sounds again once its output was moved away and back; all that is stuck of it, together. */
export function unstuck({ setup }: Room, sourceId: string): Candidate[] {
  const source = setup.sources.find(({ id }) => id === sourceId);
  if (!source?.stuck) return [];
  return [
    {
      label: `Move the output of ${source.app ?? source.name} away and back`,
      fault: `${source.app ?? source.name} is stuck: it plays, and is silent`,
      edits: sameApp(setup, source)
        .filter(({ stuck }) => stuck)
        .map(({ id }) => ({ edit: 'updateSource', id, values: {}, clear: ['stuck'] })),
    },
  ];
}

/** A pickup that asks for a name that nothing has takes the app under the name that it has. */
export function calledRight({ setup }: Room, sourceId: string): Candidate[] {
  const source = setup.sources.find(({ id }) => id === sourceId);
  if (!source) return [];
  const app = sameApp(setup, source).map(({ id }) => id);
  return setup.pickups.flatMap((pickup): Candidate[] => {
    const taken = app.includes(pickup.takes) && setup.sources.find(({ id }) => id === pickup.takes);
    if (!taken || isCalledSo(pickup, taken)) return [];
    return [
      {
        label: `Take “${taken.app ?? taken.name}” in the recorder instead of “${pickup.asksFor}”`,
        fault: `The recorder asks for “${pickup.asksFor}”, and nothing is called that`,
        edits: [{ edit: 'updatePickup', id: pickup.id, values: {}, clear: ['asksFor'] }],
      },
    ];
  });
}

/** A pickup takes as many channels of its device as carry a sound, or no longer those that do. */
export function pairsTaken(room: Room, sourceId: string): Candidate[] {
  return room.setup.pickups.flatMap((pickup): Candidate[] => {
    const there = pairsOfDevice(room.setup, pickup.takes);
    const at = there.findIndex(({ id }) => room.passes(sourceId, id));
    const now = pickup.pairs ?? 1;
    if (at < 1) return [];
    // As many as bring it, and as may bring others besides; or all before it.
    const counts = at >= now ? there.slice(at).map((_, more) => at + 1 + more) : [at];
    const name = nameOf(room.setup, pickup.takes);
    return counts.map((pairs) => ({
      label: `Let ${room.pickupName(pickup.id)} take ${2 * pairs} channels of “${name}” instead of ${2 * now}`,
      fault: `${room.pickupName(pickup.id)} takes ${2 * now} channels of “${name}”, not ${2 * pairs}`,
      edits: [{ edit: 'updatePickup', id: pickup.id, values: { pairs } }],
    }));
  });
}

/** What counts for an app that names its output itself: that, or what its machine gives to it. */
export function overrulings(room: Room, sourceId: string): Candidate[] {
  const source = room.source(sourceId);
  if (!source || !isOverruled(source)) return [];
  const { id, name, machine = '', machineInto = '' } = source;
  const fault = `${name} names its output itself, and ${nameOf(room.setup, machine)} gives it another`;
  return [
    {
      label: `Take back what ${nameOf(room.setup, machine)} gives to ${name}`,
      fault,
      edits: [{ edit: 'updateSource', id, values: {}, clear: ['machineInto'] }],
    },
    {
      label: `Leave the output of ${name} to ${nameOf(room.setup, machine)}, which gives it “${nameOf(room.setup, machineInto)}”`,
      fault,
      edits: [{ edit: 'updateSource', id, values: { into: DEFAULT_DEVICE } }],
    },
  ];
}

/** An input with a clock of its own is driven together with a device of its machine that leads. */
export function drivenTogether({ setup }: Room, id: string | null): Candidate[] {
  const device = setup.devices.find((one) => one.id === id);
  if (!device) return [];
  const leads = ({ id: other, machine, kind, follows, clockPpm }: Device) =>
    other !== id && machine === device.machine && kind === 'physical' && !follows && clockPpm === undefined;
  return setup.devices.filter(leads).map((leader) => ({
    label: `Drive “${device.name}” together with “${leader.name}”, which leads the clock`,
    fault: `“${device.name}” runs on a clock of its own`,
    edits: [{ edit: 'updateDevice', id: device.id, values: { follows: leader.id } }],
  }));
}
