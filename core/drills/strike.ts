import { attempt } from '../repair/attempt.ts';
import type { SimpleEdit } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import type { Struck } from './drill.ts';

/** Makes edits one after the other; null where one cannot be made. */
export function struckBy(setup: Setup, edits: SimpleEdit[]): Struck | null {
  const after = edits.reduce<Setup | null>((now, edit) => now && attempt(now, edit), setup);
  return after && { setup: after };
}
