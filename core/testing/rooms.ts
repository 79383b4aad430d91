import { regattaMadeRight } from '../demo/setups.ts';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { type Hardware, planRoom, type RoomSource } from '../plan/room.ts';
import type { Setup } from '../setup/schema.ts';
import { deskSecondFeed, splitMix, threeComputers, twoNoDesk } from './moreMachineRooms.ts';
import {
  besideTheDesktop,
  bySource,
  handheldOnCard,
  ownAndViewers,
  softDesk,
  throughRecorder,
  virtualCable,
} from './oneComputerRooms.ts';
import { givenByTheComputer, groupsAndChannels, wideCable } from './settingRooms.ts';

const EVENING: RoomSource[] = [
  { name: 'Narrator', kind: 'microphone', preset: 'own' },
  { name: 'Lock & Paddle', kind: 'game', preset: 'own' },
  { name: 'Bosun', kind: 'voice chat', preset: 'liveAndVod', app: 'Towline' },
  { name: 'Wick', kind: 'voice chat', preset: 'liveAndVod', app: 'Towline' },
  { name: 'Reedbox', kind: 'music', preset: 'liveOnly', onStreaming: true },
  { name: 'Bellbuoy', kind: 'alerts', preset: 'own', onStreaming: true },
];
const planned = (machines: 'one' | 'two', desk: boolean, more: Partial<Hardware> = {}) =>
  planRoom(
    'Evening',
    EVENING,
    { live: true, vod: true, upload: true, tracks: 8 },
    { machines, desk, ...more },
  ).setup;

/** Rooms of the kinds that creators have, each as it should be. */
export const RIGHT_ROOMS: [name: string, setup: Setup][] = [
  ['soft desk', softDesk],
  ['two computers, no desk', twoNoDesk],
  ['two machines with a desk', twoMachinesMadeRight()],
  ['app pickups only', regattaMadeRight()],
  ['a virtual cable alone', virtualCable],
  ['a desk with a second feed', deskSecondFeed],
  ['one finished mix, split back', splitMix],
  ['own mix and viewers’ mix', ownAndViewers],
  ['tracks by source, one for live', bySource],
  ['listening through the recorder', throughRecorder],
  ['played back beside the desktop', besideTheDesktop],
  ['the computer gives each app its output', givenByTheComputer],
  ['groups in scenes, a track of three channels', groupsAndChannels],
  ['a cable of six channels', wideCable],
  ['a handheld on a card', handheldOnCard],
  ['three computers', threeComputers],
  ['planned: one computer', planned('one', false)],
  [
    'planned: one computer with everything',
    planned('one', false, { isGiven: true, playsBack: true, chatMix: true, studio: true }),
  ],
  ['planned: one computer and a desk', planned('one', true)],
  ['planned: two computers', planned('two', false)],
  ['planned: two computers and a desk', planned('two', true)],
];
