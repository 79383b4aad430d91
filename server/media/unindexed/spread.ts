import { evenDuration } from './packetTimes.ts';
import type { WholeTrack } from './wholeRecording.ts';

/** How far the tracks of a file are apart, as one goes through its packets: in a file that can be played, all go on side by side. */
export class Spread {
  /** The most so far (s). */
  mostS = 0;
  private readonly packetS: number[];
  private readonly elapsedS: number[];

  constructor(tracks: WholeTrack[]) {
    // What comes unevenly says nothing.
    this.packetS = tracks.map((track) => (evenDuration(track) ?? Number.NaN) / track.timescale);
    this.elapsedS = tracks.map(() => 0);
  }

  took(track: number): void {
    this.elapsedS[track] += this.packetS[track];
    let [least, most] = [Number.POSITIVE_INFINITY, 0];
    for (const elapsedS of this.elapsedS) {
      if (elapsedS < least) least = elapsedS;
      if (elapsedS > most) most = elapsedS;
    }
    if (most - least > this.mostS) this.mostS = most - least;
  }

  /** How far a file has come (s). */
  get atS(): number {
    return this.elapsedS.reduce((most, one) => Math.max(most, one), 0);
  }
}
