import type { Problem } from '../core/setup/problem.ts';

/** An error that has an answer: the status, a code for programs, a message for people, and the fields concerned. */
export class HttpError extends Error {
  readonly status: number;
  readonly code: string;
  readonly problems: Problem[];

  constructor(status: number, code: string, message: string, problems: Problem[] = []) {
    super(message);
    this.name = 'HttpError';
    this.status = status;
    this.code = code;
    this.problems = problems;
  }
}

/** Returns the value, or throws a 404 that names what is missing. */
export function orNotFound<T>(value: T | undefined | null, noun: string): T {
  if (value === undefined || value === null)
    throw new HttpError(404, 'not-found', `This ${noun} is not there (any more).`);
  return value;
}
