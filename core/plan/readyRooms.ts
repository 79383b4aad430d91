import type { Hardware, RoomSource } from './room.ts';
import { planRoom } from './room.ts';
import type { Aims } from './tracks.ts';

/** A starting point: a way of working, with what it is good for and what it cannot do. */
export interface ReadyRoom {
  id: string;
  name: string;
  goodFor: string;
  cannot: string;
  hardware: Hardware;
  aims: Omit<Aims, 'tracks'>;
}

const ON_AIR = { live: true, vod: true, upload: true };
const OFF_AIR = { live: false, vod: false, upload: true };

/** Every starting point, from the simplest on. */
export const READY_ROOMS: readonly ReadyRoom[] = [
  {
    id: 'headset',
    name: 'One computer and a headset',
    goodFor: 'Starting today: nothing is bought and nothing installed. Each app has a track of its own.',
    cannot: 'Your own levels cannot differ from app to app, but by each app’s own volume.',
    hardware: { machines: 'one', desk: false, takes: 'apps' },
    aims: ON_AIR,
  },
  {
    id: 'outputs',
    name: 'An output for each app',
    goodFor: 'Any recorder that takes devices. What you hear and what is recorded have levels of their own.',
    cannot: 'An app that restarts may fall back to the default output; the drills show which.',
    hardware: { machines: 'one', desk: false, takes: 'devices' },
    aims: ON_AIR,
  },
  {
    id: 'given',
    name: 'The computer gives out the outputs',
    goodFor: 'Apps that offer no choice of output. They stay where the computer put them when they restart.',
    cannot: 'An app that names an output itself is not moved by it.',
    hardware: { machines: 'one', desk: false, takes: 'devices', isGiven: true },
    aims: ON_AIR,
  },
  {
    id: 'soft-desk',
    name: 'A soft desk on one computer',
    goodFor: 'Friends who are to hear the game with you, while the music stays away from them.',
    cannot: 'Your friends cannot set the game’s level for themselves: they get one mix.',
    hardware: { machines: 'one', desk: false, takes: 'devices', chatMix: true },
    aims: ON_AIR,
  },
  {
    id: 'playback',
    name: 'The recorder plays the music back',
    goodFor: 'Hearing the music as it is recorded.',
    cannot: 'It comes late by the recorder’s delay, so nobody should play along to it.',
    hardware: { machines: 'one', desk: false, takes: 'devices', playsBack: true },
    aims: ON_AIR,
  },
  {
    id: 'loudspeakers',
    name: 'Loudspeakers in the room',
    goodFor: 'Evenings without headphones, with music that may go everywhere.',
    cannot: 'Licensed music and friends come back through the microphone; nothing in the wiring ends that.',
    hardware: { machines: 'one', desk: false, takes: 'devices', loudspeakers: true },
    aims: ON_AIR,
  },
  {
    id: 'small-desk',
    name: 'One computer and a small desk',
    goodFor: 'A microphone that is set by hand, and goes to the recorder as the desk leaves it.',
    cannot: 'The apps stay on the computer: the desk has no faders for them.',
    hardware: { machines: 'one', desk: true, takes: 'apps' },
    aims: ON_AIR,
  },
  {
    id: 'studio',
    name: 'A mix for a web studio',
    goodFor: 'Guests and shows in a browser that want one microphone from you.',
    cannot: 'The studio gets one finished mix: nobody there can part voice and game.',
    hardware: { machines: 'one', desk: false, takes: 'devices', studio: true },
    aims: ON_AIR,
  },
  {
    id: 'cable',
    name: 'Two computers and a cable',
    goodFor: 'Games that need the whole computer: the other one records.',
    cannot: 'Every sound that crosses is late by its way; picture and sound need the same delay.',
    hardware: { machines: 'two', desk: false, takes: 'devices' },
    aims: ON_AIR,
  },
  {
    id: 'two-feeds',
    name: 'Two computers and a desk with two feeds',
    goodFor: 'The microphone in both computers at once: one feed for the recorder, one for the chat.',
    cannot: 'A desk hands over only as many mixes as it has feeds.',
    hardware: { machines: 'two', desk: true, takes: 'devices' },
    aims: ON_AIR,
  },
  {
    id: 'friends-hear',
    name: 'Two computers, and friends who hear the game',
    goodFor: 'Watching together: the call gets voice and game from the computer that plays.',
    cannot: 'The game is heard twice by friends who watch the broadcast as well.',
    hardware: { machines: 'two', desk: false, takes: 'devices', chatMix: true },
    aims: ON_AIR,
  },
  {
    id: 'table',
    name: 'A recording at the table',
    goodFor: 'Recording to edit and upload, without going live.',
    cannot: 'Nothing goes on air, so nothing is mixed for viewers while it happens.',
    hardware: { machines: 'one', desk: false, takes: 'apps' },
    aims: OFF_AIR,
  },
];

/** What a starting point costs, for the sources that somebody has. */
export function costOf({ hardware, aims }: ReadyRoom, sources: RoomSource[], tracks: number): string {
  const { setup } = planRoom('Cost', sources, { ...aims, tracks }, hardware);
  const virtual = setup.devices.filter(({ kind }) => kind === 'virtual').length;
  const parts = [
    counted(setup.machines.filter(({ kind }) => kind === 'computer').length, 'computer', 'computers'),
    ...(hardware.desk ? ['a desk'] : []),
    virtual === 0 ? 'no virtual device' : counted(virtual, 'virtual device', 'virtual devices'),
    ...(setup.links.length > 0
      ? [counted(setup.links.length, 'line between machines', 'lines between machines')]
      : []),
    ...(setup.mixes.length > 0 ? [counted(setup.mixes.length, 'mix', 'mixes')] : []),
  ];
  return parts.join(', ');
}

function counted(count: number, one: string, many: string): string {
  return `${count} ${count === 1 ? one : many}`;
}
