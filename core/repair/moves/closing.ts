import type { Destination } from '../../reach/destinations.ts';
import type { SimpleEdit } from '../../setup/edits.ts';
import { soundingScenes } from '../../setup/scenes.ts';
import type { Setup } from '../../setup/schema.ts';
import type { About, Candidate } from '../candidate.ts';
import type { Room } from '../room.ts';
import { withoutLoopingInput } from './mixes.ts';
import { endedListening, notPlayedBack } from './monitoring.ts';
import { otherOutputs, playingInstead } from './outputs.ts';

/** Returns what keeps a sound away from a destination: every control on its paths, closed, and the pickups on them. */
export function closings(room: Room, { source, destination: destinationId, scene }: About): Candidate[] {
  const destination = room.destination(destinationId);
  const arrival =
    destination && (room.arrival(source, destination, scene) ?? room.arrival(source, destination));
  if (!destination || !arrival) return [];
  const found = new Map<string, Candidate>();
  const put = (one: Candidate | null) => one && !found.has(one.label) && found.set(one.label, one);
  for (const path of arrival.places) {
    for (let i = path.length - 1; i > 0; i--) {
      const [from, to] = [path[i - 1], path[i]];
      put(closedSend(room, from, to));
      put(mutedInput(room, from, to));
      put(withoutOutput(room, from, to));
      put(withoutHearing(room, from, to));
      unplugged(room, from, to).forEach(put);
      endedListening(room, from).forEach(put);
      notPlayedBack(room, from, to).forEach(put);
      if (room.setup.pickups.some(({ id }) => id === to)) {
        put(onlyWhereWanted(room, to));
        put(withoutPickup(room, to));
        if (scene !== null) {
          put(notInScene(room, to, scene));
          withoutGroup(room, to, scene).forEach(put);
        }
      }
    }
  }
  return [...found.values()];
}

function closedSend(room: Room, from: string, to: string): Candidate | null {
  if (!room.setup.sends.some((one) => one.pickup === from && one.to === to)) return null;
  const destination = room.judged.destinations.find(({ sendTo }) => sendTo === to);
  const where = destination ? room.feedName(destination) : room.name(to);
  const what = room.pickupName(from);
  return {
    label: `Close ${what} on ${where}`,
    fault: `${what} is open on ${where}`,
    edits: [room.closeSend(from, to)],
  };
}

function mutedInput(room: Room, from: string, to: string): Candidate | null {
  const mix = room.setup.mixes.find(({ id }) => id === to);
  if (!mix?.inputs.some((input) => input.from === from && !input.muted)) return null;
  return {
    label: `Mute ${room.name(from)} in the mix “${mix.name}”`,
    fault: `${room.name(from)} is open in the mix “${mix.name}”`,
    edits: [{ edit: 'setMixInput', mix: mix.id, from, values: { muted: true } }],
  };
}

function withoutOutput(room: Room, from: string, to: string): Candidate | null {
  const mix = room.setup.mixes.find(({ id }) => id === from);
  if (!mix?.into.includes(to)) return null;
  return {
    label: `Stop the mix “${mix.name}” from playing into “${room.name(to)}”`,
    fault: `The mix “${mix.name}” plays into “${room.name(to)}”`,
    edits: [{ edit: 'updateMix', id: mix.id, values: { into: mix.into.filter((id) => id !== to) } }],
  };
}

/** Returns acts that each remove one cable from one device to another. */
function unplugged(room: Room, from: string, to: string): Candidate[] {
  return room.setup.links
    .filter((link) => link.from === from && link.to === to)
    .map(({ id, name, kind }) => ({
      label: kind === 'network' ? `Stop sending over “${name}”` : `Unplug “${name}”`,
      fault: `“${room.name(from)}” is connected to “${room.name(to)}”`,
      edits: [{ edit: 'removeLink', id }],
    }));
}

function withoutHearing(room: Room, from: string, to: string): Candidate | null {
  const heardAt = room.setup.destinations.find(({ id }) => id === to);
  if (!heardAt?.hears?.includes(from)) return null;
  return {
    label: `Stop ${heardAt.name} from hearing “${room.name(from)}”`,
    fault: `“${room.name(from)}” is heard at ${heardAt.name}`,
    edits: [
      {
        edit: 'updateDestination',
        id: heardAt.id,
        values: { hears: heardAt.hears.filter((id) => id !== from) },
      },
    ],
  };
}

/** A pickup is closed on every track where nothing that it brings is wanted. */
function onlyWhereWanted(room: Room, pickup: string): Candidate | null {
  const carried = room.sourcesAt(pickup);
  const edits = room.setup.sends
    .filter((send) => send.pickup === pickup)
    .filter((send) => {
      const fed = room.judged.destinations.filter(({ sendTo }) => sendTo === send.to);
      return fed.length > 0 && !fed.some((destination) => isWantedOverIt(room, carried, pickup, destination));
    })
    .map((send): SimpleEdit => room.closeSend(pickup, send.to));
  if (edits.length < 2) return null;
  const name = room.pickupName(pickup);
  return {
    label: `Close ${name} on every track that it does not belong on`,
    fault: `${name} is open on ${edits.length} tracks that it does not belong on`,
    edits,
  };
}

/** Tells whether a pickup is what brings something wanted to a destination: another pickup does not do so already. */
function isWantedOverIt(room: Room, carried: string[], pickup: string, destination: Destination): boolean {
  return carried.some((id) => {
    if (room.wishDb(id, destination) === null) return false;
    const others = room.arrival(id, destination)?.places.filter((path) => !path.includes(pickup)) ?? [];
    return others.length === 0;
  });
}

function withoutPickup(room: Room, pickup: string): Candidate {
  return {
    label: `Remove ${room.name(pickup)} from the recorder`,
    fault: `The recorder picks up ${room.pickupName(pickup)}`,
    edits: [{ edit: 'removePickup', id: pickup }],
  };
}

function notInScene(room: Room, id: string, scene: string): Candidate | null {
  const pickup = room.setup.pickups.find((one) => one.id === id);
  const now = (pickup && soundingScenes(room.setup, pickup)) ?? room.setup.scenes.map((one) => one.id);
  if (!pickup || isInGroup(room.setup, id) || !now.includes(scene)) return null;
  return {
    label: `Silence ${room.pickupName(id)} in the scene “${room.name(scene)}”`,
    fault: `${room.pickupName(id)} sounds in the scene “${room.name(scene)}”`,
    edits: [{ edit: 'updatePickup', id, values: { scenes: now.filter((one) => one !== scene) } }],
  };
}

/** What a group does is changed for the whole group. */
function isInGroup({ groups = [] }: Setup, pickup: string): boolean {
  return groups.some(({ pickups }) => pickups.includes(pickup));
}

/** A group that brings the sound is taken out of the scene. */
function withoutGroup(room: Room, pickup: string, scene: string): Candidate[] {
  const { groups = [], scenes } = room.setup;
  const now = scenes.find(({ id }) => id === scene)?.groups ?? [];
  return groups
    .filter(({ id, pickups }) => now.includes(id) && pickups.includes(pickup))
    .map(({ id, name }) => ({
      label: `Take the group “${name}” out of the scene “${room.name(scene)}”`,
      fault: `The group “${name}” is in the scene “${room.name(scene)}”`,
      edits: [{ edit: 'updateScene', id: scene, values: { groups: now.filter((one) => one !== id) } }],
    }));
}

/** Returns what breaks a loop: for each mix on it, an input is muted or replaced, or an output is taken away or replaced. */
export function loopBreakers(room: Room): Candidate[] {
  const isOn = loopPlaces(room);
  return room.setup.mixes
    .filter(({ id }) => isOn.has(id))
    .flatMap((mix) => {
      const inputs = mix.inputs.filter(({ from }) => isOn.has(from));
      const outputs = mix.into.filter((id) => isOn.has(id));
      return [
        ...inputs.flatMap(({ from }) => mutedInput(room, from, mix.id) ?? []),
        ...inputs.flatMap(({ from }) => withoutLoopingInput(room, mix, from)),
        ...outputs.flatMap((device) => withoutOutput(room, mix.id, device) ?? []),
        ...outputs.flatMap((device) =>
          otherOutputs(room, mix).map(({ id }) => playingInstead(room, mix, device, id)),
        ),
      ];
    });
}

/** The places that lie on a loop: from which sound comes back to where it was. */
function loopPlaces({ judged: { graph } }: Room): Set<string> {
  const places = new Set<string>();
  for (const cut of graph.edges.filter((edge) => edge.cut)) {
    const seen = new Set([cut.to]);
    for (const node of seen) for (const edge of graph.leaving[node]) if (!edge.cut) seen.add(edge.to);
    const back = new Set([cut.from]);
    for (const node of back)
      for (const edge of graph.entering[node]) if (!edge.cut && seen.has(edge.from)) back.add(edge.from);
    for (const node of back) if (seen.has(node)) places.add(graph.nodes[node].id);
  }
  return places;
}
