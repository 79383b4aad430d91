import type { SimpleEdit } from '../setup/edits.ts';

/** Edits that may remove a finding, with the words that a creator would use for them; not tried yet. */
export interface Candidate {
  label: string;
  edits: SimpleEdit[];
}
