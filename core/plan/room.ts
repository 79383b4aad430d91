import type { Setup } from '../setup/schema.ts';
import type { Hardware, RoomSource } from './hardware.ts';
import { RoomBuilder } from './roomBuilder.ts';
import { type Aims, planTracks } from './tracks.ts';

export type { Hardware, RoomSource } from './hardware.ts';

export interface RoomPlan {
  setup: Setup;
  reasons: string[];
}

/**
 * Makes a whole setup from sources, aims and hardware: devices, links, mixes, pickups, tracks, sends and what is wanted
 * where, with the reasons. The order of the sources is their priority for a track of their own.
 */
export function planRoom(name: string, sources: RoomSource[], aims: Aims, hardware: Hardware): RoomPlan {
  const plan = planTracks(sources, aims);
  const builder = new RoomBuilder(name, aims, hardware);
  const placed = sources.map((source) => builder.addSource(source));
  builder.finishWiring();
  builder.addAir();
  builder.addSideMixes();
  plan.tracks.forEach((track) => {
    builder.addTrack(track, placed);
  });
  builder.addWishes(sources, placed, aims);
  return { setup: builder.setup, reasons: [...builder.reasons, ...plan.reasons] };
}
