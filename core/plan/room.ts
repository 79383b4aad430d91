import type { Setup } from '../setup/schema.ts';
import { RoomBuilder } from './roomBuilder.ts';
import { type Aims, type PlannedSource, planTracks } from './tracks.ts';

/** What hardware there is, and how it is used. */
export interface Hardware {
  machines: 'one' | 'two';
  desk: boolean;
  /** Whether the creator listens on loudspeakers in the room of the microphone; on headphones when left out. */
  loudspeakers?: boolean;
  /** Whether each app plays into a virtual device of its own where it is recorded (when left out), or the recorder takes it by itself. */
  takes?: 'devices' | 'apps';
  /** Whether the machine’s own settings give the apps their outputs; they name them themselves when left out. */
  isGiven?: boolean;
  /** Whether the recorder plays the music back on the headphones; only where it runs on the machine in front of the creator. */
  playsBack?: boolean;
  /** Whether the chat app takes a mix of microphone and game; the microphone alone when left out. */
  chatMix?: boolean;
  /** Whether a mix of microphone and game goes to a web studio as well. */
  studio?: boolean;
}

export interface RoomSource extends PlannedSource {
  /** With two machines: whether it runs on the one that streams; the others run where the game is played. */
  onStreaming?: boolean;
}

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
