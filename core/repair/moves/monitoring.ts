import { isTakenAlone } from '../../reach/graph.ts';
import type { SimpleEdit } from '../../setup/edits.ts';
import { monitorOutputs } from '../../setup/monitoring.ts';
import type { Pickup } from '../../setup/schema.ts';
import type { About, Candidate } from '../candidate.ts';
import type { Room } from '../room.ts';

/** Returns what lets a pickup through that is silent or only played back, and what plays sounds back by the recorder. */
export function letThrough(room: Room, { source, destination: destinationId }: About): Candidate[] {
  const destination = room.destination(destinationId);
  if (!destination) return [];
  const { pickups } = room.setup;
  const taken = room.source(source);
  const silent = pickups.filter(
    (pickup) =>
      pickup.muted &&
      ((taken && isTakenAlone(room.setup, pickup, taken)) || room.passes(source, pickup.takes)),
  );
  const onlyHeard = destination.track
    ? pickups.filter(({ id, monitoring }) => monitoring === 'heard' && room.passes(source, id))
    : [];
  return [
    ...silent.map(({ id }) => ({
      label: `Unmute ${room.pickupName(id)} in the recorder`,
      fault: `${room.pickupName(id)} is muted in the recorder`,
      edits: [changed(id, { muted: false })],
    })),
    ...onlyHeard.map(({ id }) => ({
      label: `Send ${room.pickupName(id)} to its tracks, besides playing it back`,
      fault: `The recorder only plays ${room.pickupName(id)} back`,
      edits: [changed(id, { monitoring: 'heard and sent' })],
    })),
    ...endedListening(room).filter(({ edits }) =>
      edits.some((edit) => edit.edit === 'updateMix' && room.passes(source, edit.id)),
    ),
    ...playedBack(room, source, destination.id),
    ...otherMonitorDevice(room, destination.id),
  ];
}

/** Listening in on a mix ends, so that it plays again where it is to. @param only of one mix; of every one where it is left out */
export function endedListening({ setup }: Room, only?: string | null): Candidate[] {
  return setup.mixes
    .filter(({ id, listenedOn }) => listenedOn !== undefined && (!only || id === only))
    .map(({ id, name }) => ({
      label: `Stop listening in on the mix “${name}”`,
      fault: `You listen in on the mix “${name}”`,
      edits: [{ edit: 'updateMix', id, clear: ['listenedOn'], values: {} }],
    }));
}

/** A pickup on the way to a device on which the recorder plays back: not played back, or on another device. */
export function notPlayedBack(room: Room, from: string, to: string): Candidate[] {
  const { setup } = room;
  const pickup = setup.pickups.find(({ id }) => id === from);
  if (!pickup?.monitoring || setup.recorder.monitorDevice !== to) return [];
  const name = room.pickupName(from);
  return [
    {
      label: `Stop the recorder from playing ${name} back`,
      fault: `The recorder plays ${name} back into “${room.name(to)}”`,
      edits: [withoutMonitoring(pickup)],
    },
    ...monitorOutputs(room.setup)
      .filter(({ id }) => id !== to)
      .map(({ id, name: other }) => playingBackOn(room, id, other)),
  ];
}

/** A pickup that was only heard, and is heard no more, stays off its tracks. */
function withoutMonitoring({ id, monitoring }: Pickup): SimpleEdit {
  const values = monitoring === 'heard' ? { muted: true } : {};
  return { edit: 'updatePickup', id, clear: ['monitoring'], values };
}

function changed(id: string, values: Partial<Pickup>): SimpleEdit {
  return { edit: 'updatePickup', id, values };
}

/** Pickups of a source are played back where a destination hears the recorder, or could hear it. */
function playedBack(room: Room, source: string, destination: string): Candidate[] {
  const { setup } = room;
  const hears = setup.destinations.find(({ id }) => id === destination)?.hears ?? [];
  const place = room.destination(destination);
  if (hears.length === 0 || !place) return [];
  const { monitorDevice } = setup.recorder;
  const leading = room.leadingTo(place);
  const device =
    monitorDevice !== undefined && leading.has(monitorDevice)
      ? monitorDevice
      : monitorDevice === undefined
        ? monitorOutputs(room.setup).find(({ id }) => hears.includes(id))?.id
        : undefined;
  if (device === undefined) return [];
  return setup.pickups
    .filter(({ id, monitoring, takes }) => !monitoring && takes !== device && room.passes(source, id))
    .map(({ id }) => ({
      label: `Let the recorder play ${room.pickupName(id)} back`,
      fault: `The recorder does not play ${room.pickupName(id)} back`,
      edits: [
        ...(monitorDevice === undefined
          ? [{ edit: 'setRecorder' as const, values: { monitorDevice: device } }]
          : []),
        changed(id, { monitoring: 'heard and sent' }),
      ],
    }));
}

/** The recorder plays back on an output that a destination hears. */
function otherMonitorDevice(room: Room, destination: string): Candidate[] {
  const { setup } = room;
  const hears = setup.destinations.find(({ id }) => id === destination)?.hears ?? [];
  const now = setup.recorder.monitorDevice;
  if (now === undefined || hears.includes(now) || !setup.pickups.some(({ monitoring }) => monitoring))
    return [];
  return monitorOutputs(room.setup)
    .filter(({ id }) => hears.includes(id))
    .map(({ id, name }) => playingBackOn(room, id, name));
}

function playingBackOn(room: Room, id: string, name: string): Candidate {
  return {
    label: `Let the recorder play back on “${name}”`,
    fault: `The recorder plays back on “${room.name(room.setup.recorder.monitorDevice ?? '')}”, not on “${name}”`,
    edits: [{ edit: 'setRecorder', values: { monitorDevice: id } }],
  };
}
