import type { Arrival } from '../reach/reach.ts';

/** The creator's own voice is heard as an echo from this delay on (ms). */
export const OWN_VOICE_LATE_MS = 10;
/** A copy this far below the loudest (dB) neither colours a sound nor is heard by itself. */
export const COPY_IS_HEARD_DB = 15;
/** Copies that lie further apart (ms) are heard one after the other; nearer ones colour the sound. */
export const ECHO_FROM_MS = 30;

/** Tells whether copies of one sound are near enough in level to be heard: as a colour, or one after the other. */
export function areHeardAsCopies({ doubling }: Arrival): boolean {
  return doubling !== null && doubling.belowDb <= COPY_IS_HEARD_DB;
}
