import { evenDuration } from './packetTimes.ts';
import type { WholeTrack } from './wholeRecording.ts';

/** How the packets of several tracks lie side by side in a file: the same program with the same settings lays them alike. */
export class Interleaving {
  /** How far the tracks were apart at most (s): in a file that can be played, all go on side by side. */
  mostApartS = 0;
  private readonly packetS: number[];
  /** How far each track has come (s); not a number where that cannot be told. */
  private readonly elapsedS: number[];
  private packets = 0;
  private changes = 0;
  private last: number | null = null;

  constructor(tracks: WholeTrack[]) {
    this.packetS = tracks.map((track) =>
      track.sizes.length > 0 ? (evenDuration(track) ?? Number.NaN) / track.timescale : Number.NaN,
    );
    this.elapsedS = this.packetS.map((packetS) => 0 * packetS);
  }

  /** @param kind tells apart what can be told apart by what it holds: which of several like tracks a packet belongs to is only reckoned */
  took(track: number, kind: number): void {
    this.packets += 1;
    if (this.last !== null && kind !== this.last) this.changes += 1;
    this.last = kind;
    this.elapsedS[track] += this.packetS[track];
    let [least, most] = [Number.POSITIVE_INFINITY, 0];
    for (const elapsedS of this.elapsedS) {
      if (elapsedS < least) least = elapsedS;
      if (elapsedS > most) most = elapsedS;
    }
    if (most - least > this.mostApartS) this.mostApartS = most - least;
  }

  /** How many packets of one kind follow each other on average; null where there is but one kind, or too little to tell. */
  get runLength(): number | null {
    return this.changes >= FEWEST_CHANGES ? this.packets / this.changes : null;
  }

  /** How far a file has come (s). */
  get atS(): number {
    return Math.max(0, ...this.elapsedS.filter((elapsedS) => !Number.isNaN(elapsedS)));
  }
}

/** Of fewer changes from one kind to another no average is made. */
const FEWEST_CHANGES = 20;
/** The tracks of one file may be so much (s) further apart than those of another like it: some pictures late, some packets of sound early. */
const MORE_APART_S = 0.5;
/** Runs of packets of one kind are so much longer or shorter on average at most. */
const TIMES_LONGER = 1.6;

/** Tells whether the tracks of a file run apart, read as another file is laid. */
export function runApart(found: Interleaving, whole: Interleaving): boolean {
  return found.mostApartS > whole.mostApartS + MORE_APART_S;
}

/** Tells whether packets lie together in other portions than in another file. */
export function areLaidOtherwise(found: Interleaving, whole: Interleaving): boolean {
  const [one, other] = [found.runLength, whole.runLength];
  if (one === null || other === null) return false;
  return one > other * TIMES_LONGER || one < other / TIMES_LONGER;
}
