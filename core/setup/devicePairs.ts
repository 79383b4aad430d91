import type { Problem } from './problem.ts';
import type { Pickup, Setup } from './schema.ts';
import { type Device, MOST_PAIRS } from './wiring.ts';

/** The device and those that list its further channels: each carries two, in the order of the setup. */
export function pairsOfDevice({ devices }: Pick<Setup, 'devices'>, id: string): Device[] {
  const first = devices.filter((one) => one.id === id);
  return [...first, ...devices.filter(({ channelsOf }) => channelsOf === id)].slice(0, MOST_PAIRS);
}

/** What a pickup takes by itself: a device with as many of its further pairs as it takes, or an app. By id. */
export function takenPairs(
  setup: Pick<Setup, 'devices'>,
  { takes, pairs = 1 }: Pick<Pickup, 'takes' | 'pairs'>,
): string[] {
  if (pairs === 1) return [takes];
  const devices = pairsOfDevice(setup, takes).map(({ id }) => id);
  return devices.length > 0 ? devices.slice(0, pairs) : [takes];
}

/** What a pickup could take that no pickup takes yet: a thing by itself, and a device with all of its channels. */
export interface Takeable {
  id: string;
  name: string;
  /** How many pairs of channels of a device, where they are several. */
  pairs?: number;
}

/** Returns each of the things that is not taken yet by itself, and each device with further channels that is not taken whole. */
export function notTaken(setup: Setup, things: { id: string; name: string }[]): Takeable[] {
  const isTaken = (id: string, pairs: number) =>
    setup.pickups.some((pickup) => pickup.takes === id && (pickup.pairs ?? 1) === pairs);
  return things.flatMap(({ id, name }): Takeable[] => {
    const pairs = pairsOfDevice(setup, id).length;
    return [
      ...(setup.pickups.some(({ takes }) => takes === id) ? [] : [{ id, name }]),
      ...(pairs > 1 && !isTaken(id, pairs) ? [{ id, name: `${name}, ${2 * pairs} channels`, pairs }] : []),
    ];
  });
}

/** Pickups take no more pairs than there are: of a device that lost some, or of another thing, they take what is left. */
export function withPairsThereAre(setup: Setup): Setup {
  const most = (pickup: Pickup) => Math.max(1, pairsOfDevice(setup, pickup.takes).length);
  if (!setup.pickups.some((pickup) => (pickup.pairs ?? 1) > most(pickup))) return setup;
  const pickups = setup.pickups.map((pickup) => {
    const { pairs = 1, ...rest } = pickup;
    const left = Math.min(pairs, most(pickup));
    if (left === pairs) return pickup;
    return left === 1 ? rest : { ...rest, pairs: left };
  });
  return { ...setup, pickups };
}

/** Of a device that goes, the channels that are left are one themselves, and pickups that took more than it take those. */
export function withoutFirstPair(setup: Setup, id: string): Setup {
  const heir = setup.devices.find(({ channelsOf }) => channelsOf === id)?.id;
  if (heir === undefined) return setup;
  return {
    ...setup,
    devices: setup.devices.map((device) => {
      if (device.channelsOf !== id) return device;
      const { channelsOf: _, ...alone } = device;
      return device.id === heir ? alone : { ...device, channelsOf: heir };
    }),
    pickups: setup.pickups.map((pickup) =>
      pickup.takes === id && (pickup.pairs ?? 1) > 1
        ? { ...pickup, takes: heir, pairs: (pickup.pairs ?? 1) - 1 }
        : pickup,
    ),
  };
}

/** Further channels belong to a device of the same machine and direction, which lists no others itself. */
export function* brokenDevicePairs(setup: Setup): Generator<Problem> {
  const byId = new Map(setup.devices.map((device) => [device.id, device]));
  for (const [at, { id, name, machine, direction, channelsOf }] of setup.devices.entries()) {
    if (channelsOf === undefined) continue;
    const field = `devices[${at}].channelsOf`;
    const whole = byId.get(channelsOf);
    if (!whole) yield { field, rule: `there is no device "${channelsOf}"` };
    else if (whole.id === id)
      yield { field, rule: `“${name}” cannot list further channels of itself; leave this out` };
    else if (whole.machine !== machine || whole.direction !== direction)
      yield {
        field,
        rule: `“${whole.name}” is ${whole.machine === machine ? `an ${whole.direction === 'in' ? 'input' : 'output'}` : 'on another machine'}; further channels of a device lie on its machine, in its direction`,
      };
    else if (whole.channelsOf !== undefined)
      yield {
        field,
        rule: `“${whole.name}” lists further channels of another device itself; name that one here, too`,
      };
    else if (pairsOfDevice(setup, whole.id).every((one) => one.id !== id))
      yield { field, rule: `a device has ${2 * MOST_PAIRS} channels at most, in ${MOST_PAIRS} pairs` };
  }
  for (const [at, { takes, pairs = 1 }] of setup.pickups.entries()) {
    const there = pairsOfDevice(setup, takes).length;
    if (pairs > Math.max(1, there))
      yield {
        field: `pickups[${at}].pairs`,
        rule:
          there === 0
            ? 'an app is taken as it is; only of a device are several pairs of channels taken'
            : `there are ${there === 1 ? 'two channels' : `${2 * there} channels`} of “${byId.get(takes)?.name}”; list its further channels as devices first`,
      };
  }
}
