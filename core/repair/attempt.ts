import { applyEdit, type Edit, EditError } from '../setup/edits.ts';
import { brokenRules } from '../setup/rules.ts';
import type { Setup } from '../setup/schema.ts';

/** Returns the setup with some edits, or null where one of them names a thing that is not there. Rules are not looked at. */
export function applied(setup: Setup, edits: Edit[]): Setup | null {
  try {
    return edits.reduce<Setup>(applyEdit, setup);
  } catch (error) {
    if (error instanceof EditError) return null;
    throw error;
  }
}

/** Returns the setup with the edit, or null where the edit cannot be made or would break a rule. */
export function attempt(setup: Setup, edit: Edit): Setup | null {
  const after = applied(setup, [edit]);
  return after && brokenRules(after).length === 0 ? after : null;
}
