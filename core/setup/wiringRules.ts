import { brokenDevicePairs } from './devicePairs.ts';
import type { Problem } from './problem.ts';
import { DEFAULT_DEVICE, isPlugged, type Setup, type Source } from './schema.ts';
import type { Device, Machine, Mix } from './wiring.ts';

/** The things of a setup by id, each with its place in the file. */
interface Index {
  setup: Setup;
  machines: Map<string, Machine>;
  devices: Map<string, Device>;
  mixes: Map<string, Mix>;
  sources: Map<string, Source>;
}

/** Returns every reference of the wiring that does not hold, and whatever no machine could do. */
export function brokenWiring(setup: Setup): Problem[] {
  const byId = <T extends { id: string }>(list: T[]) => new Map(list.map((one) => [one.id, one]));
  const index: Index = {
    setup,
    machines: byId(setup.machines),
    devices: byId(setup.devices),
    mixes: byId(setup.mixes),
    sources: byId(setup.sources),
  };
  return [
    ...brokenMachines(index),
    ...brokenLinks(index),
    ...brokenMixes(index),
    ...brokenSources(index),
    ...brokenPickups(index),
    ...brokenGroups(index),
    ...brokenHearing(index),
  ];
}

function* brokenMachines({ setup, machines, devices }: Index): Generator<Problem> {
  for (const [at, { defaultOutput, id }] of setup.machines.entries()) {
    if (defaultOutput === undefined) continue;
    const device = devices.get(defaultOutput);
    const field = `machines[${at}].defaultOutput`;
    if (!device) yield { field, rule: `there is no device "${defaultOutput}"` };
    else if (device.machine !== id || device.direction !== 'out')
      yield { field, rule: `"${defaultOutput}" is not an output of "${id}"; choose one that is` };
  }
  for (const [at, { machine }] of setup.devices.entries()) {
    if (!machines.has(machine))
      yield { field: `devices[${at}].machine`, rule: `there is no machine "${machine}"` };
  }
  yield* brokenClocks(setup, devices);
  yield* brokenDevicePairs(setup);
  if (setup.recorder.machine !== undefined && !machines.has(setup.recorder.machine))
    yield { field: 'recorder.machine', rule: `there is no machine "${setup.recorder.machine}"` };
  const { machine, monitorDevice } = setup.recorder;
  if (monitorDevice === undefined) return;
  const device = devices.get(monitorDevice);
  const field = 'recorder.monitorDevice';
  if (!device) yield { field, rule: `there is no device "${monitorDevice}"` };
  else if (device.direction !== 'out' || (machine !== undefined && device.machine !== machine))
    yield {
      field,
      rule: `"${device.name}" is not an output of the recorder’s machine; choose one that is`,
    };
}

/** Of devices that are driven together, one leads, and follows none itself. */
function* brokenClocks(setup: Setup, devices: Index['devices']): Generator<Problem> {
  for (const [at, { id, name, machine, follows }] of setup.devices.entries()) {
    if (follows === undefined) continue;
    const field = `devices[${at}].follows`;
    const leader = devices.get(follows);
    if (!leader) yield { field, rule: `there is no device "${follows}"` };
    else if (leader.machine !== machine)
      yield {
        field,
        rule: `“${leader.name}” is on another machine; only devices of one machine are driven together`,
      };
    else if (follows === id) yield { field, rule: `“${name}” cannot follow its own clock; leave this out` };
    else if (leader.follows !== undefined)
      yield {
        field,
        rule: `“${leader.name}” would lead the clock of “${name}”, and follows another device itself; one device leads, so let “${name}” follow that one`,
      };
  }
}

function* brokenLinks({ setup, devices }: Index): Generator<Problem> {
  for (const [at, link] of setup.links.entries()) {
    const [from, to] = [devices.get(link.from), devices.get(link.to)];
    for (const [end, device] of [
      ['from', from],
      ['to', to],
    ] as const) {
      if (!device) yield { field: `links[${at}].${end}`, rule: `there is no device "${link[end]}"` };
    }
    if (!from || !to) continue;
    if (from.direction !== 'out')
      yield {
        field: `links[${at}].from`,
        rule: `"${link.from}" is an input; a link starts at an output`,
      };
    if (to.direction !== 'in')
      yield { field: `links[${at}].to`, rule: `"${link.to}" is an output; a link ends at an input` };
    if (from.machine === to.machine)
      yield {
        field: `links[${at}]`,
        rule: `both ends are on "${from.machine}"; a link joins two machines (within one, use a mix)`,
      };
  }
}

function* brokenMixes({ setup, machines, devices, mixes, sources }: Index): Generator<Problem> {
  for (const [at, mix] of setup.mixes.entries()) {
    const field = `mixes[${at}]`;
    if (!machines.has(mix.machine))
      yield { field: `${field}.machine`, rule: `there is no machine "${mix.machine}"` };
    const seen = new Set<string>();
    for (const [i, { from }] of mix.inputs.entries()) {
      const where = `${field}.inputs[${i}].from`;
      const thing = devices.get(from) ?? mixes.get(from) ?? sources.get(from);
      if (!thing) yield { field: where, rule: `there is no source, device or mix "${from}"` };
      else if (from === mix.id) yield { field: where, rule: `"${mix.name}" cannot be an input of itself` };
      else if (thing.machine !== undefined && thing.machine !== mix.machine)
        yield {
          field: where,
          rule: `"${from}" is on "${thing.machine}" and the mix on "${mix.machine}"; bring it there by a link first`,
        };
      if (seen.has(from)) yield { field: where, rule: `"${from}" is an input of "${mix.name}" already` };
      seen.add(from);
    }
    for (const id of [...mix.into, ...(mix.listenedOn === undefined ? [] : [mix.listenedOn])]) {
      const device = devices.get(id);
      if (!device) yield { field: `${field}.into`, rule: `there is no device "${id}"` };
      else if (device.machine !== mix.machine || device.direction !== 'out')
        yield { field: `${field}.into`, rule: `"${id}" is not an output of "${mix.machine}"` };
    }
  }
  yield* brokenHandovers({ setup, machines, devices, mixes, sources });
}

/** A desk hands over a mix by playing it into an output that a link starts from. */
function* brokenHandovers({ setup, machines }: Index): Generator<Problem> {
  const linked = new Set(setup.links.map((link) => link.from));
  for (const machine of machines.values()) {
    if (machine.handovers === undefined) continue;
    const over = setup.mixes.filter(
      (mix) => mix.machine === machine.id && mix.into.some((device) => linked.has(device)),
    );
    const beyond = over[machine.handovers];
    if (beyond)
      yield {
        field: `mixes[${setup.mixes.indexOf(beyond)}].into`,
        rule: `${machine.name} can hand over ${machine.handovers === 1 ? 'one mix' : `${machine.handovers} mixes`}, and “${beyond.name}” would be one more; take another one off its outputs first`,
      };
  }
}

function* brokenSources({ setup, machines, devices }: Index): Generator<Problem> {
  for (const [at, source] of setup.sources.entries()) {
    if (source.machine !== undefined && !machines.has(source.machine))
      yield { field: `sources[${at}].machine`, rule: `there is no machine "${source.machine}"` };
    if (source.machineInto !== undefined) yield* brokenMachineInto(source, at, devices);
    if (source.into === undefined) continue;
    const field = `sources[${at}].into`;
    if (source.machine === undefined)
      yield { field, rule: `say on which machine ${source.name} is before it can play into a device` };
    else if (source.into !== DEFAULT_DEVICE) {
      const device = devices.get(source.into);
      if (!device) yield { field, rule: `there is no device "${source.into}"` };
      else if (device.machine !== source.machine)
        yield { field, rule: `"${source.into}" is not on "${source.machine}"; choose a device that is` };
    }
  }
}

/** What a machine's settings give to an app is an output of that machine. */
function* brokenMachineInto(
  { name, kind, machine, machineInto = '' }: Source,
  at: number,
  devices: Index['devices'],
): Generator<Problem> {
  const field = `sources[${at}].machineInto`;
  const device = devices.get(machineInto);
  if (isPlugged(kind))
    yield { field, rule: `${name} is plugged in, and its machine cannot send it elsewhere; leave this out` };
  else if (!device) yield { field, rule: `there is no device "${machineInto}"` };
  else if (device.machine !== machine || device.direction !== 'out')
    yield { field, rule: `"${machineInto}" is not an output of the machine of ${name}; choose one that is` };
}

function* brokenGroups({ setup }: Index): Generator<Problem> {
  const groups = new Set((setup.groups ?? []).map(({ id }) => id));
  const pickups = new Set(setup.pickups.map(({ id }) => id));
  for (const [at, scene] of setup.scenes.entries())
    for (const group of scene.groups ?? [])
      if (!groups.has(group)) yield { field: `scenes[${at}].groups`, rule: `there is no group "${group}"` };
  for (const [at, group] of (setup.groups ?? []).entries())
    for (const pickup of group.pickups)
      if (!pickups.has(pickup))
        yield { field: `groups[${at}].pickups`, rule: `there is no pickup "${pickup}"` };
}

function* brokenPickups({ setup, devices, sources }: Index): Generator<Problem> {
  const scenes = new Set(setup.scenes.map(({ id }) => id));
  const recorder = setup.recorder.machine;
  for (const [at, pickup] of setup.pickups.entries()) {
    const field = `pickups[${at}].takes`;
    const device = devices.get(pickup.takes);
    const source = sources.get(pickup.takes);
    if (!device && !source) yield { field, rule: `there is no source or device "${pickup.takes}"` };
    const machine = (device ?? source)?.machine;
    if (recorder !== undefined && machine !== undefined && machine !== recorder)
      yield {
        field,
        rule: `"${pickup.takes}" is on "${machine}", but the recorder runs on "${recorder}"; take the device there that its sound arrives at`,
      };
    if (pickup.asksFor !== undefined && device)
      yield {
        field: `pickups[${at}].asksFor`,
        rule: `a device is taken as it is; only where the recorder takes one app does it ask for a name`,
      };
    if (pickup.monitoring && setup.recorder.monitorDevice === pickup.takes)
      yield {
        field: `pickups[${at}].monitoring`,
        rule: `${pickup.name ?? `the pickup of ${device?.name ?? pickup.takes}`} would be played back into the device that it takes, and howl; play back on another device, or do not listen to it`,
      };
    for (const scene of pickup.scenes ?? []) {
      if (!scenes.has(scene)) yield { field: `pickups[${at}].scenes`, rule: `there is no scene "${scene}"` };
    }
  }
}

function* brokenHearing({ setup, devices }: Index): Generator<Problem> {
  for (const [at, destination] of setup.destinations.entries()) {
    for (const id of destination.hears ?? []) {
      if (!devices.has(id)) yield { field: `destinations[${at}].hears`, rule: `there is no device "${id}"` };
    }
    if ((destination.kind === 'live' || destination.kind === 'vod') && destination.hears?.length)
      yield {
        field: `destinations[${at}].hears`,
        rule: `${destination.name} hears the track with its use, not a device`,
      };
  }
}
