import type { Destination } from '../reach/destinations.ts';
import { deviceOf, sameApp } from '../reach/graph.ts';
import { knownReach } from '../reach/knownReach.ts';
import { applyEdit, type SimpleEdit } from '../setup/edits.ts';
import { newId } from '../setup/ids.ts';
import { nearestGain, type Setup, type Source } from '../setup/schema.ts';
import type { Device } from '../setup/wiring.ts';
import { listed } from '../setup/words.ts';
import type { Candidate } from './candidate.ts';

/** The latency that a network link between two machines is given at first (ms). */
const NETWORK_MS = 20;
/** … and a feed of a desk (ms). */
const FEED_MS = 6;

/**
 * Returns ways to bring a source to the recorder apart from the others that it is fused with, and still to every place
 * where it is wanted; not tried yet.
 */
export function separations(setup: Setup, source: Source): Candidate[] {
  const own = sameApp(setup, source);
  const name = source.app ?? source.name;
  const shared = setup.pickups.filter(({ id }) => {
    const carried = knownReach(setup).sourcesAt(id);
    return carried.includes(source.id) && carried.some((other) => !own.some((one) => one.id === other));
  });
  if (shared.length === 0) return [];
  const candidates: Candidate[] = [];
  const isHere = source.machine === setup.recorder.machine;
  if (source.kind !== 'microphone' && source.machine !== undefined) {
    const onto = ontoOwnDevice(setup, source, own, name);
    candidates.push({
      label: isHere
        ? `Give ${name} a virtual device of its own and pick that up`
        : `Give ${name} a virtual device of its own, linked to the recorder’s machine`,
      edits: resent(setup, own, onto.edits, onto.pickup),
    });
  }
  candidates.push(
    ...bypassed(setup, source, own),
    ...secondFeeds(setup, source, own, name),
    ...elsewhere(setup, source),
  );
  return candidates;
}

/** Says why no rewiring brings a source to the recorder apart, and what could be done about it. */
export function whyInseparable(setup: Setup, source: Source): string {
  const reach = knownReach(setup);
  const own = sameApp(setup, source);
  const others = new Set(
    setup.pickups
      .map(({ id }) => reach.sourcesAt(id))
      .filter((carried) => carried.includes(source.id))
      .flatMap((carried) => carried.filter((id) => !own.some((one) => one.id === id))),
  );
  if (own.length > 1 && others.size === 0)
    return `${listed(own.map(({ name }) => name))} come out of one app, ${source.app}, as one sound: no wiring can tell them apart. Take them as one, or let one of them come by another app.`;
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
function secondFeeds(setup: Setup, source: Source, own: Source[], name: string): Candidate[] {
  const recorder = setup.recorder.machine;
  const desks = new Set(setup.machines.filter(({ kind }) => kind === 'desk').map(({ id }) => id));
  if (recorder === undefined || desks.has(recorder)) return [];
  const reach = knownReach(setup);
  const isOwn = (from: string) =>
    from === source.id ||
    (reach.sourcesAt(from).includes(source.id) &&
      reach.sourcesAt(from).every((id) => own.some((one) => one.id === id)));
  return setup.mixes
    .filter((mix) => desks.has(mix.machine) && leadsToPickup(setup, mix.id))
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
            edits: resent(setup, own, edits, pickup),
          };
        }),
    );
}

/** The apps play into another device that is there already. */
export function elsewhere(setup: Setup, source: Source): Candidate[] {
  if (source.into === undefined || source.kind === 'microphone') return [];
  const now = deviceOf(setup, source);
  return setup.devices
    .filter((one) => one.machine === source.machine && one.direction === 'out' && one.id !== now)
    .map((one) => ({
      label: `Let ${source.app ?? source.name} play into “${one.name}”`,
      edits: sameApp(setup, source).map(
        (app): SimpleEdit => ({
          edit: 'updateSource',
          id: app.id,
          values: { into: one.id },
        }),
      ),
    }));
}

/** The apps play into a new virtual device; it is heard where the old one was, and picked up by itself. */
function ontoOwnDevice(setup: Setup, source: Source, own: Source[], name: string) {
  const machine = source.machine as string;
  const device = newId(setup, `${machine} ${name}`);
  const old = deviceOf(setup, source);
  const edits: SimpleEdit[] = [
    { edit: 'addDevice', id: device, device: { name, machine, direction: 'out', kind: 'virtual' } },
    ...own.map((one): SimpleEdit => ({ edit: 'updateSource', id: one.id, values: { into: device } })),
    ...heardAsBefore(setup, old, device, name, machine),
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

/** Whatever took the old device in for ears (mixes on the way to headphones or friends) takes in the new one too. */
function heardAsBefore(
  setup: Setup,
  old: string | undefined,
  device: string,
  name: string,
  machine: string,
): SimpleEdit[] {
  if (old === undefined) return [];
  const hearing = setup.destinations.filter((one) => one.hears?.includes(old));
  const isTaken = setup.pickups.some((pickup) => pickup.takes === old);
  const oldDevice = setup.devices.find((one) => one.id === old) as Device;
  const mixes = setup.mixes.filter(
    (mix) => mix.inputs.some(({ from }) => from === old) && !leadsToPickup(setup, mix.id),
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
function leadsToPickup(setup: Setup, mixId: string): boolean {
  const { graph } = knownReach(setup);
  const seen = new Set<number>();
  const follow = (node: number): boolean => {
    if (graph.nodes[node].kind === 'pickup') return true;
    if (seen.has(node)) return false;
    seen.add(node);
    return graph.leaving[node].some((edge) => follow(edge.to));
  };
  return follow(graph.indexOf.get(mixId) as number);
}

/** A source that reaches the recorder by a second pickup already is taken out of the mix in which it is fused. */
function bypassed(setup: Setup, source: Source, own: Source[]): Candidate[] {
  const reach = knownReach(setup);
  const carrying = setup.pickups.filter(({ id }) => reach.sourcesAt(id).includes(source.id));
  const isAlone = (id: string) => reach.sourcesAt(id).every((other) => own.some((one) => one.id === other));
  const alone = carrying.find(({ id }) => isAlone(id));
  if (!alone) return [];
  const found: Candidate[] = [];
  for (const mix of setup.mixes) {
    for (const { from } of mix.inputs) {
      const passing = reach.sourcesAt(from);
      if (
        from !== source.id &&
        !(passing.includes(source.id) && passing.every((id) => own.some((one) => one.id === id)))
      )
        continue;
      const edits: SimpleEdit[] = [{ edit: 'setMixInput', mix: mix.id, from, values: { muted: true } }];
      found.push({
        label: `Mute ${source.app ?? source.name} in the mix “${mix.name}”: it comes by a pickup of its own`,
        edits: resent(setup, own, edits, alone.id),
      });
    }
  }
  return found;
}

/**
 * Adds to edits of the wiring the sends that make intent true for the sources that came free, and takes back those of
 * the shared pickups which nobody else needs.
 */
function resent(setup: Setup, own: Source[], edits: SimpleEdit[], pickup: string): SimpleEdit[] {
  const after = edits.reduce<Setup>(applyEdit, setup);
  const reach = knownReach(after);
  const sends: SimpleEdit[] = [];
  const wishes = new Map(setup.intent.map((wish) => [`${wish.source} ${wish.destination}`, wish.gainDb]));
  const wanted = (id: string, place: string) => wishes.get(`${id} ${place}`);
  const given: SimpleEdit[] = [];
  for (const place of reach.destinations) {
    if (place.feedId === null || place.track === null) continue;
    for (const one of own.filter(
      (source) => wanted(source.id, place.id) !== undefined && !mayBe(source, place),
    )) {
      wishes.delete(`${one.id} ${place.id}`);
      given.push({ edit: 'setWish', source: one.id, destination: place.id, gainDb: null });
    }
    const feed = place.feedId;
    const [first] = own.flatMap((one) => {
      const gainDb = wanted(one.id, place.id);
      return gainDb === undefined ? [] : [gainDb - (reach.gainAt(one.id, pickup) ?? 0)];
    });
    const has = after.sends.find((one) => one.pickup === pickup && one.to === feed);
    if (first !== undefined && !has)
      sends.push({ edit: 'setSend', pickup, to: feed, gainDb: nearestGain(first) });
    for (const other of after.pickups) {
      if (other.id === pickup) continue;
      const before = knownReach(setup).sourcesAt(other.id);
      if (!before.some((id) => own.some((one) => one.id === id))) continue;
      const left = reach.sourcesAt(other.id);
      const gains = left.flatMap((id) => {
        const gainDb = wanted(id, place.id);
        return gainDb === undefined ? [] : [gainDb - (reach.gainAt(id, other.id) ?? 0)];
      });
      const open = after.sends.some((one) => one.pickup === other.id && one.to === feed);
      if (gains.length === 0 && open)
        sends.push({ edit: 'setSend', pickup: other.id, to: feed, gainDb: null });
      if (gains.length > 0 && !open)
        sends.push({ edit: 'setSend', pickup: other.id, to: feed, gainDb: nearestGain(Math.max(...gains)) });
    }
  }
  return [...edits, ...dedupe(sends), ...given];
}

/** Tells whether a source is cleared for every use of a track; what it is not cleared for is no longer wanted there. */
function mayBe({ clearance }: Source, { track }: Destination): boolean {
  return !(
    (track?.uses.includes('live') && !clearance.live) ||
    (track?.uses.includes('vod') && !clearance.vod) ||
    (track?.purpose === 'publish' && !clearance.upload)
  );
}

function dedupe(edits: SimpleEdit[]): SimpleEdit[] {
  const seen = new Set<string>();
  return edits.filter((one) => {
    if (one.edit !== 'setSend') return true;
    const key = `${one.pickup} ${one.to}`;
    if (seen.has(key)) return false;
    seen.add(key);
    return true;
  });
}
