import type { SimpleEdit } from '../setup/edits.ts';

/** Edits that are one act and may mend something, with the words that a creator would use for them; not tried yet. */
export interface Candidate {
  label: string;
  edits: SimpleEdit[];
  /** What is wrong if this is what mends it, as a sentence without its full stop: the name of a cause. */
  fault: string;
  /** The same act at another level: by so many dB more. For acts that open a way, so that what comes over it lands on its wish. */
  adjusted?: (byDb: number) => Candidate | null;
}

/** Where a repair begins: a source, the destination at which it is not as it is wanted, and the scene. */
export interface About {
  source: string;
  destination: string | null;
  scene: string | null;
}
