import type { Edit } from '../setup/edits.ts';
import type { Cause } from './causes.ts';
import type { Effect } from './effects.ts';
import type { Remedy } from './remedies.ts';

/** A remedy as plain data, so that it can be sent between threads. */
export interface RemedyReport {
  label: string;
  edit: Edit;
  handwork: string[];
  givesUp: string[];
  effects: Effect[];
}

/** A cause as plain data: findings by their ids. */
export interface CauseReport {
  /** What is wrong, as a sentence without its full stop; null where that is not known. */
  name: string | null;
  /** The findings that it brings, the gravest first. */
  brings: string[];
  remedies: RemedyReport[];
  givingUp: RemedyReport[];
  whyNone: Cause['whyNone'];
}

/** Returns a cause as plain data. */
export function reportOf({ name, brings, remedies, givingUp, whyNone }: Cause): CauseReport {
  return {
    name,
    brings: brings.map(({ id }) => id),
    remedies: remedies.map(reportedRemedy),
    givingUp: givingUp.map(reportedRemedy),
    whyNone,
  };
}

/** Returns a remedy as plain data. */
export function reportedRemedy({ label, edit, handwork, givesUp, effects }: Remedy): RemedyReport {
  return { label, edit, handwork, givesUp, effects };
}
