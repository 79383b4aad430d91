import { applyEdit, type Edit } from '../setup/edits.ts';
import { brokenRules } from '../setup/rules.ts';
import type { Setup } from '../setup/schema.ts';

/** Returns the setup with the edit, or null where the edit cannot be made or would break a rule. */
export function attempt(setup: Setup, edit: Edit): Setup | null {
  try {
    const after = applyEdit(setup, edit);
    return brokenRules(after).length > 0 ? null : after;
  } catch {
    return null;
  }
}
