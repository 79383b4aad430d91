import type { PlannedSource } from './tracks.ts';

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
