import { canBeSentTo } from '../../reach/cell.ts';
import type { Destination } from '../../reach/destinations.ts';
import { notTaken, pairsOfDevice, takenPairs } from '../../setup/devicePairs.ts';
import type { SimpleEdit } from '../../setup/edits.ts';
import { soundingScenes } from '../../setup/scenes.ts';
import { MAX_GAIN_DB, MIN_GAIN_DB, nearestGain } from '../../setup/schema.ts';
import type { Mix } from '../../setup/wiring.ts';
import { gainText } from '../../words/figures.ts';
import type { About, Candidate } from '../candidate.ts';
import type { Room } from '../room.ts';
import { letThrough } from './monitoring.ts';

/** Returns what brings a sound on to a destination: sends, inputs of mixes, pickups, scenes. */
export function openings(room: Room, { source, destination: destinationId, scene }: About): Candidate[] {
  const destination = room.destination(destinationId);
  if (!destination) return [];
  return [
    ...openedSends(room, source, destination),
    ...inScene(room, source, scene),
    ...letThrough(room, { source, destination: destinationId, scene }),
    ...openedInputs(room, source, destination),
    ...newInputs(room, source, destination),
    ...newPickups(room, source),
  ];
}

/** A pickup that brings the source is opened on the track, and wherever else what it brings is wanted and missing. */
function openedSends(room: Room, source: string, destination: Destination): Candidate[] {
  const { setup } = room;
  const { sendTo } = destination;
  if (sendTo === null || !canBeSentTo(room.setup, destination)) return [];
  return setup.pickups
    .filter(({ id }) => room.passes(source, id))
    .flatMap(({ id }) => {
      if (setup.sends.some((one) => one.pickup === id && one.to === sendTo)) return [];
      const here = sendAtWish(room, id, destination, source);
      const all = room.judged.destinations.flatMap((one) => {
        const isOpen = setup.sends.some((send) => send.pickup === id && send.to === one.sendTo);
        const isMissing = room
          .sourcesAt(id)
          .some((each) => room.wishDb(each, one) !== null && !room.arrival(each, one));
        return one.track && !isOpen && isMissing ? (sendAtWish(room, id, one) ?? []) : [];
      });
      const name = room.pickupName(id);
      const candidates: Candidate[] = here
        ? [
            opened(
              here,
              `Open ${name} on ${room.feedName(destination)}`,
              `${name} is closed on ${room.feedName(destination)}`,
            ),
          ]
        : [];
      if (all.length > 1)
        candidates.push({
          label: `Open ${name} on the ${all.length} tracks where it is wanted`,
          fault: `${name} is closed on ${all.length} tracks where it is wanted`,
          edits: all,
        });
      return candidates;
    });
}

type SendEdit = Extract<SimpleEdit, { edit: 'setSend' }>;

function opened(edit: SendEdit, label: string, fault: string): Candidate {
  return {
    label: `${label} (${gainText(edit.gainDb ?? 0)} dB)`,
    fault,
    edits: [edit],
    adjusted: (byDb) => {
      const gainDb = inRange((edit.gainDb ?? 0) + byDb);
      return gainDb === null ? null : { ...opened({ ...edit, gainDb }, label, fault), adjusted: undefined };
    },
  };
}

/** The send of a pickup at which what it brings arrives as it is wished; null where nothing of it is wanted there. */
function sendAtWish(room: Room, pickup: string, destination: Destination, first?: string): SendEdit | null {
  const carried = room.sourcesAt(pickup);
  for (const id of first === undefined ? carried : [first, ...carried]) {
    const wishDb = room.wishDb(id, destination);
    const hereDb = room.gainAt(id, pickup);
    if (wishDb === null || hereDb === null || destination.sendTo === null) continue;
    const gainDb = inRange(wishDb - hereDb);
    if (gainDb !== null) return { edit: 'setSend', pickup, to: destination.sendTo, gainDb };
  }
  return null;
}

/** Pickups of the source sound in a scene in which they are silent, by themselves or with their group; in every scene. */
function inScene(room: Room, source: string, scene: string | null): Candidate[] {
  const { setup } = room;
  if (scene === null)
    return setup.pickups
      .filter((pickup) => room.passes(source, pickup.id) && pickup.scenes)
      .map(({ id, scenes = [] }) => everywhere(room, id, scenes));
  const silent = setup.pickups.filter(
    (pickup) => room.passes(source, pickup.id) && soundingScenes(setup, pickup)?.includes(scene) === false,
  );
  return [
    ...silent.flatMap(({ id, scenes = [] }) => [
      ...withGroup(room, id, scene),
      ...soundingIn(room, id, scenes, scene),
    ]),
    ...allInScene(room, scene),
  ];
}

function soundingIn(room: Room, id: string, scenes: string[], scene: string): Candidate[] {
  const missing = room.setup.scenes.filter((one) => !scenes.includes(one.id));
  const name = room.pickupName(id);
  const here: Candidate = {
    label: `Let ${name} sound in the scene “${room.name(scene)}” too`,
    fault: `${name} is silent in the scene “${room.name(scene)}”`,
    edits: [{ edit: 'updatePickup', id, values: { scenes: [...scenes, scene] } }],
  };
  return missing.length > 1 ? [here, everywhere(room, id, scenes)] : [here];
}

function everywhere(room: Room, id: string, scenes: string[]): Candidate {
  const name = room.pickupName(id);
  const silent = room.setup.scenes.length - scenes.length;
  return {
    label: `Let ${name} sound in every scene`,
    fault: `${name} is silent in ${silent === 1 ? '1 scene' : `${silent} scenes`}`,
    edits: [{ edit: 'updatePickup', id, values: {}, clear: ['scenes'] }],
  };
}

/** A group that the pickup is in sounds in the scene. */
function withGroup(room: Room, pickup: string, scene: string): Candidate[] {
  const { groups = [], scenes } = room.setup;
  const now = scenes.find(({ id }) => id === scene)?.groups ?? [];
  return groups
    .filter(({ pickups }) => pickups.includes(pickup))
    .map(({ id, name }) => ({
      label: `Put the group “${name}” into the scene “${room.name(scene)}”`,
      fault: `The group “${name}” is not in the scene “${room.name(scene)}”`,
      edits: [{ edit: 'updateScene', id: scene, values: { groups: [...now, id] } }],
    }));
}

/** Everything that is silent in a scene, though it is wanted, sounds there. */
function allInScene(room: Room, scene: string): Candidate[] {
  const { setup } = room;
  const silent = setup.pickups.filter((pickup) => soundingScenes(setup, pickup)?.includes(scene) === false);
  if (silent.length < 2) return [];
  return [
    {
      label: `Let all ${silent.length} silent pickups sound in the scene “${room.name(scene)}”`,
      fault: `${silent.length} pickups are silent in the scene “${room.name(scene)}”`,
      edits: silent.map(
        ({ id, scenes = [] }): SimpleEdit => ({
          edit: 'updatePickup',
          id,
          values: { scenes: [...scenes, scene] },
        }),
      ),
    },
  ];
}

/** Muted inputs of mixes that the source comes to. */
function openedInputs(room: Room, source: string, destination: Destination): Candidate[] {
  const leading = room.leadingTo(destination);
  return room.setup.mixes.flatMap((mix) =>
    mix.inputs
      .filter(({ from, muted }) => muted && room.passes(source, from))
      .map(({ from, gainDb }) => inputAt(room, mix, from, gainDb, 'Open'))
      .sort(() => (leading.has(mix.id) ? -1 : 1)),
  );
}

/** Mixes that lead to the destination take in what carries the source on their machine. */
function newInputs(room: Room, source: string, destination: Destination): Candidate[] {
  const { setup } = room;
  const leading = room.mayLeadTo(destination);
  const own = room.source(source);
  const device = own && room.deviceOf(own);
  return setup.mixes
    .filter(({ id }) => leading.has(id))
    .flatMap((mix) => {
      const isTaken = (id: string) => id === mix.id || mix.inputs.some(({ from }) => from === id);
      const carrying = [
        ...setup.devices.filter((one) => one.machine === mix.machine && room.passes(source, one.id)),
        ...(own && device === undefined && own.machine === mix.machine ? [own] : []),
        ...setup.mixes.filter((one) => one.machine === mix.machine && room.passes(source, one.id)),
      ];
      return carrying
        .filter(({ id }) => !isTaken(id) && !mix.into.includes(id))
        .map(({ id }) => inputAt(room, mix, id, 0, 'Take'));
    });
}

function inputAt(room: Room, mix: Mix, from: string, gainDb: number, verb: 'Open' | 'Take'): Candidate {
  const what =
    verb === 'Open'
      ? `Open ${room.name(from)} in the mix “${mix.name}”`
      : `Take ${room.name(from)} into the mix “${mix.name}”`;
  return {
    label: `${what} (${gainText(gainDb)} dB)`,
    fault:
      verb === 'Open'
        ? `${room.name(from)} is muted in the mix “${mix.name}”`
        : `The mix “${mix.name}” does not take in ${room.name(from)}`,
    edits: [{ edit: 'setMixInput', mix: mix.id, from, values: { gainDb, muted: false } }],
    adjusted: (byDb) => {
      const level = inRange(gainDb + byDb);
      return level === null ? null : { ...inputAt(room, mix, from, level, verb), adjusted: undefined };
    },
  };
}

/** A pickup of a device that the source comes to, or of the app alone, sent where what it brings is wanted and missing. */
export function newPickups(room: Room, source: string): Candidate[] {
  const { setup } = room;
  const own = room.source(source);
  const recorder = setup.recorder.machine;
  const isHere = (machine: string | undefined) =>
    recorder === undefined || machine === undefined || machine === recorder;
  const takes = notTaken(setup, [
    ...setup.devices.filter(
      ({ id, machine }) =>
        isHere(machine) && pairsOfDevice(setup, id).some((pair) => room.passes(source, pair.id)),
    ),
    ...(own && isHere(own.machine) && (room.deviceOf(own) === undefined || canBeTakenAlone(room, source))
      ? [own]
      : []),
  ]);
  return takes.flatMap((one): Candidate[] => {
    const { pairs } = one;
    const id = `${one.id}.${pairs ? 'whole' : 'taken'}`.slice(0, 64);
    const isApp = own !== undefined && one.id === source;
    const devices = takenPairs(setup, { takes: one.id, pairs });
    const carried = isApp
      ? room.movesWith(own).map((each) => each.id)
      : devices.flatMap((device) => room.sourcesAt(device));
    if (!isApp && !carried.includes(source)) return [];
    const sends = room.judged.destinations.flatMap((destination): SimpleEdit[] => {
      if (destination.sendTo === null || !canBeSentTo(room.setup, destination)) return [];
      for (const each of carried) {
        const wishDb = room.wishDb(each, destination);
        const from = isApp ? each : devices.find((device) => room.passes(each, device));
        const hereDb = room.gainAt(each, from ?? one.id);
        if (wishDb === null || hereDb === null || room.arrival(each, destination)) continue;
        const gainDb = inRange(wishDb - hereDb);
        if (gainDb !== null) return [{ edit: 'setSend', pickup: id, to: destination.sendTo, gainDb }];
      }
      return [];
    });
    if (sends.length === 0) return [];
    const what = isApp ? `${room.appName(own)} by itself` : `“${one.name}”`;
    return [
      {
        label: `Pick up ${what} in the recorder and send it where it is wanted`,
        fault: `The recorder does not pick up ${what}`,
        edits: [
          { edit: 'addPickup', id, pickup: { takes: one.id, ...(pairs && { pairs }), gainDb: 0 } },
          ...sends,
        ],
      },
    ];
  });
}

/** An app can be taken by itself where the recorder runs; what is plugged in comes by its device. */
function canBeTakenAlone(room: Room, source: string): boolean {
  const own = room.source(source);
  return own !== undefined && room.device(room.deviceOf(own))?.direction !== 'in';
}

/** A level that a control can be set to, to a tenth; null where it is out of range. */
export function inRange(gainDb: number): number | null {
  return gainDb >= MIN_GAIN_DB && gainDb <= MAX_GAIN_DB ? nearestGain(gainDb) : null;
}
