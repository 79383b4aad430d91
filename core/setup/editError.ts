import type { Problem } from './problem.ts';

/** Thrown when an edit names a thing that is not in the setup, or would break a rule of it. */
export class EditError extends Error {
  readonly problems: Problem[];

  constructor(field: string, rule: string) {
    super(rule);
    this.name = 'EditError';
    this.problems = [{ field, rule }];
  }
}
