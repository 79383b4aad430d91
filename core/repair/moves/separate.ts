import { sameApp } from '../../reach/graph.ts';
import { reachOf } from '../../reach/reach.ts';
import type { SimpleEdit } from '../../setup/edits.ts';
import { newId } from '../../setup/ids.ts';
import { isPlugged, type Setup, type Source } from '../../setup/schema.ts';
import type { Device } from '../../setup/wiring.ts';
import { listed } from '../../words/figures.ts';
import type { Candidate } from '../candidate.ts';
import type { Room } from '../room.ts';
import { inRange } from './opening.ts';
import { appOutputs } from './outputs.ts';

/** The latency that a network link between two machines is given at first (ms). */
const NETWORK_MS = 20;
/** … and a feed of a desk (ms). */
const FEED_MS = 6;

/**
 * Returns ways to bring a source to the recorder apart from the others that it is fused with, and still to every place
 * where it is wanted; not tried yet.
 */
export function separations(room: Room, source: Source): Candidate[] {
  const { setup } = room;
  const own = sameApp(setup, source);
  const name = source.app ?? source.name;
  const isShared = (pickup: string) => room.passes(source.id, pickup) && !isAlone(room, pickup, own);
  if (!setup.pickups.some(({ id }) => isShared(id))) return [];
  const candidates: Candidate[] = [];
  if (!isPlugged(source.kind) && source.machine !== undefined) {
    const isHere = source.machine === setup.recorder.machine;
    const onto = ontoOwnDevice(room, source, own, name);
    candidates.push({
      label: isHere
        ? `Give ${name} a virtual device of its own and pick that up`
        : `Give ${name} a virtual device of its own, linked to the recorder’s machine`,
      fault: `${name} has no device of its own`,
      edits: resent(room, own, onto.edits, onto.pickup),
    });
  }
  return [
    ...candidates,
    ...bypassed(room, source, own),
    ...secondFeeds(room, source, own, name),
    ...appOutputs(room, source),
  ];
}

/** Tells whether nothing passes a place but some sources. */
function isAlone(room: Room, place: string, own: Source[]): boolean {
  return room.sourcesAt(place).every((id) => own.some((one) => one.id === id));
}

/** Says why no rewiring brings a source to the recorder apart, and what could be done about it. */
export function whyInseparable(setup: Setup, source: Source): string {
  const reach = reachOf(setup);
  const own = sameApp(setup, source);
  const others = new Set(
    setup.pickups
      .map(({ id }) => reach.sourcesAt(id))
      .filter((carried) => carried.includes(source.id))
      .flatMap((carried) => carried.filter((id) => !own.some((one) => one.id === id))),
  );
  if (own.length > 1 && others.size === 0)
    return `${listed(own.map(({ name }) => name))} come out of one app, ${source.app}, as one sound: no wiring can part them. Keep them together, or let one of them come by another app.`;
  const help =
    source.kind === 'microphone'
      ? 'Plug the microphone into a device that nothing else plays into, or let the desk hand over more mixes than now.'
      : 'Add a link between the machines, and look again.';
  return `No rewiring with the machines and links of this setup brings ${source.name} to the recorder apart. ${help}`;
}

/**
 * A desk hands the source over once more, by itself: a mix of its own, a second feed to the recorder's machine, and a pickup
 * there; in the mix in which it was fused it is muted. (Where the desk has no hand-over left, a rule refuses it.)
 */
function secondFeeds(room: Room, source: Source, own: Source[], name: string): Candidate[] {
  const { setup } = room;
  const recorder = setup.recorder.machine;
  const desks = new Set(setup.machines.filter(({ kind }) => kind === 'desk').map(({ id }) => id));
  if (recorder === undefined || desks.has(recorder)) return [];
  const isOwn = (from: string) =>
    from === source.id || (room.passes(source.id, from) && isAlone(room, from, own));
  return setup.mixes
    .filter((mix) => desks.has(mix.machine) && leadsToPickup(room, mix.id))
    .flatMap((mix) =>
      mix.inputs
        .filter(({ from, muted }) => !muted && isOwn(from))
        .map(({ from, gainDb }): Candidate => {
          const out = newId(setup, `${mix.machine} ${name} alone`);
          const into = newId(setup, `${recorder} ${name} alone`);
          const pickup = newId(setup, `${name} alone pickup`);
          const alone = `${name} alone`;
          const edits: SimpleEdit[] = [
            {
              edit: 'addDevice',
              id: out,
              device: { name: alone, machine: mix.machine, direction: 'out', kind: 'physical' },
            },
            {
              edit: 'addDevice',
              id: into,
              device: { name: alone, machine: recorder, direction: 'in', kind: 'physical' },
            },
            {
              edit: 'addMix',
              id: newId(setup, alone),
              mix: { name: alone, machine: mix.machine, inputs: [{ from, gainDb }], into: [out] },
            },
            {
              edit: 'addLink',
              id: newId(setup, `${name} feed`),
              link: { name: `Feed of ${alone}`, from: out, to: into, kind: 'usb', latencyMs: FEED_MS },
            },
            { edit: 'setMixInput', mix: mix.id, from, values: { muted: true } },
            { edit: 'addPickup', id: pickup, pickup: { takes: into, gainDb: 0 } },
          ];
          const desk = setup.machines.find(({ id }) => id === mix.machine)?.name ?? mix.machine;
          return {
            label: `Let ${desk} hand over ${name} by itself, on a second feed`,
            fault: `${desk} hands ${name} over together with others`,
            edits: resent(room, own, edits, pickup),
          };
        }),
    );
}

/** The apps play into a new virtual device; it is heard where the old one was, and picked up by itself. */
function ontoOwnDevice(room: Room, source: Source, own: Source[], name: string) {
  const { setup } = room;
  const machine = source.machine as string;
  const device = newId(setup, `${machine} ${name}`);
  const old = room.deviceOf(source);
  const edits: SimpleEdit[] = [
    { edit: 'addDevice', id: device, device: { name, machine, direction: 'out', kind: 'virtual' } },
    ...own.map((one): SimpleEdit => ({ edit: 'updateSource', id: one.id, values: { into: device } })),
    ...heardAsBefore(room, old, device, name, machine),
  ];
  const pickup = newId(setup, `${name} pickup`);
  let taken = device;
  const recorder = setup.recorder.machine;
  if (recorder !== undefined && recorder !== machine) {
    taken = newId(setup, `${recorder} ${name}`);
    const link = newId(setup, `${name} network`);
    edits.push(
      {
        edit: 'addDevice',
        id: taken,
        device: { name, machine: recorder, direction: 'in', kind: 'virtual' },
      },
      {
        edit: 'addLink',
        id: link,
        link: {
          name: `${name} over the network`,
          from: device,
          to: taken,
          kind: 'network',
          latencyMs: NETWORK_MS,
        },
      },
    );
  }
  edits.push({ edit: 'addPickup', id: pickup, pickup: { takes: taken, gainDb: 0 } });
  return { edits, pickup };
}

/** Whatever took the old device in for listening (mixes on the way to headphones or friends) takes in the new one too. */
function heardAsBefore(
  room: Room,
  old: string | undefined,
  device: string,
  name: string,
  machine: string,
): SimpleEdit[] {
  const { setup } = room;
  if (old === undefined) return [];
  const hearing = setup.destinations.filter((one) => one.hears?.includes(old));
  const isTaken = setup.pickups.some((pickup) => pickup.takes === old);
  const oldDevice = setup.devices.find((one) => one.id === old) as Device;
  const mixes = setup.mixes.filter(
    (mix) => mix.inputs.some(({ from }) => from === old) && !leadsToPickup(room, mix.id),
  );
  const leads = setup.links.some((link) => link.from === old);
  if (mixes.length > 0)
    return mixes.map(
      (mix): SimpleEdit => ({
        edit: 'setMixInput',
        mix: mix.id,
        from: device,
        values: { gainDb: mix.inputs.find(({ from }) => from === old)?.gainDb ?? 0 },
      }),
    );
  if ((hearing.length > 0 || leads) && !isTaken)
    return [
      {
        edit: 'addMix',
        id: newId(setup, `${name} on`),
        mix: {
          name: `${name} to ${oldDevice.name}`,
          machine,
          inputs: [{ from: device, gainDb: 0 }],
          into: [old],
        },
      },
    ];
  return hearing.map(
    (one): SimpleEdit => ({
      edit: 'updateDestination',
      id: one.id,
      values: { hears: [...(one.hears ?? []), device] },
    }),
  );
}

/** Tells whether what a mix carries comes to the recorder: a sound that is to be apart must not be taken in there. */
function leadsToPickup({ judged: { graph } }: Room, mix: string): boolean {
  const seen = new Set([graph.indexOf.get(mix) as number]);
  for (const node of seen) {
    if (graph.nodes[node].kind === 'pickup') return true;
    for (const edge of graph.leaving[node]) seen.add(edge.to);
  }
  return false;
}

/** A source that reaches the recorder by a second pickup already is taken out of the mix in which it is fused. */
function bypassed(room: Room, source: Source, own: Source[]): Candidate[] {
  const { setup } = room;
  const alone = setup.pickups.find(({ id }) => room.passes(source.id, id) && isAlone(room, id, own));
  if (!alone) return [];
  const name = source.app ?? source.name;
  return setup.mixes.flatMap((mix) =>
    mix.inputs
      .filter(({ from }) => from === source.id || (room.passes(source.id, from) && isAlone(room, from, own)))
      .map(({ from }): Candidate => {
        const muted: SimpleEdit = { edit: 'setMixInput', mix: mix.id, from, values: { muted: true } };
        return {
          label: `Mute ${name} in the mix “${mix.name}”: it comes by a pickup of its own`,
          fault: `${name} is open in the mix “${mix.name}”, and comes by a pickup of its own as well`,
          edits: resent(room, own, [muted], alone.id),
        };
      }),
  );
}

/**
 * Adds to edits of the wiring the sends that bring the sources that came free to where they are wanted and may be, and takes back those
 * of the shared pickups which nobody else needs.
 */
function resent(room: Room, own: Source[], edits: SimpleEdit[], pickup: string): SimpleEdit[] {
  const after = room.after(edits);
  if (!after) return [];
  const sends = new Map<string, SimpleEdit>();
  const send = (from: string, to: string, gainDb: number | null) => {
    const key = `${from} ${to}`;
    if (!sends.has(key)) sends.set(key, { edit: 'setSend', pickup: from, to, gainDb });
  };
  for (const destination of after.judged.destinations) {
    const { sendTo, track } = destination;
    if (sendTo === null || track === null) continue;
    const isOpen = (from: string) =>
      after.setup.sends.some((one) => one.pickup === from && one.to === sendTo);
    const gainsOf = (ids: string[], from: string) =>
      ids.flatMap((id) => {
        const wishDb = after.wishDb(id, destination);
        const gainDb = wishDb === null ? null : inRange(wishDb - (after.gainAt(id, from) ?? 0));
        return gainDb === null ? [] : [gainDb];
      });
    const [first] = gainsOf(
      own.map(({ id }) => id),
      pickup,
    );
    if (first !== undefined && !isOpen(pickup)) send(pickup, sendTo, first);
    for (const { id } of after.setup.pickups) {
      if (id === pickup || !own.some((one) => room.passes(one.id, id))) continue;
      const gains = gainsOf(after.sourcesAt(id), id);
      if (gains.length === 0 && isOpen(id)) send(id, sendTo, null);
      if (gains.length > 0 && !isOpen(id)) send(id, sendTo, Math.max(...gains));
    }
  }
  return [...edits, ...sends.values()];
}
