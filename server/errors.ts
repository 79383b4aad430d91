import type { ErrorRequestHandler } from 'express';
import { ZodError } from 'zod';
import { EditError } from '../core/setup/edits.ts';
import { describeProblems, MOST_PROBLEMS, problemOf, SetupFileError } from '../core/setup/file.ts';
import type { Problem } from '../core/setup/problem.ts';
import { HttpError } from './httpError.ts';
import { StalledError } from './jobs/runner.ts';
import { DiskFullError, orDiskFull, StorageError } from './media/diskFile.ts';
import { MediaError } from './media/mediaError.ts';

/** What every failed request is answered with. */
export interface ErrorBody {
  error: { code: string; message: string; problems: Problem[] };
}

/** Turns what a route threw into an answer with a sentence that helps; only real faults are logged. */
export const answerError: ErrorRequestHandler = (error, request, response, _next) => {
  const { status, code, message, problems } = answerFor(error);
  if (status === 500) request.log?.error({ err: error }, 'request failed');
  if (response.headersSent) {
    response.destroy();
    return;
  }
  // What was said of a file that is not sent after all is taken back.
  response.removeHeader('Content-Disposition');
  response
    .status(status)
    .type('application/json')
    .json({ error: { code, message, problems } } satisfies ErrorBody);
};

interface Answer {
  status: number;
  code: string;
  message: string;
  problems: Problem[];
}

function answerFor(thrown: unknown): Answer {
  const answer = fullAnswerFor(orDiskFull(thrown));
  return { ...answer, problems: answer.problems.slice(0, MOST_PROBLEMS) };
}

function fullAnswerFor(error: unknown): Answer {
  if (error instanceof HttpError) return { ...error, message: error.message };
  if (error instanceof SetupFileError)
    return { status: 422, code: 'setup-refused', message: error.message, problems: error.problems };
  if (error instanceof EditError)
    return { status: 422, code: 'edit-refused', message: error.message, problems: error.problems };
  if (error instanceof MediaError)
    return { status: 422, code: `media-${error.code}`, message: error.message, problems: [] };
  if (error instanceof DiskFullError)
    return { status: 507, code: 'disk-full', message: error.message, problems: [] };
  if (error instanceof StorageError)
    return { status: 507, code: 'storage', message: error.message, problems: [] };
  if (error instanceof StalledError)
    return { status: 422, code: 'stalled', message: error.message, problems: [] };
  if (error instanceof ZodError) {
    const problems = error.issues.map(problemOf);
    return { status: 400, code: 'bad-request', message: describeProblems(problems), problems };
  }
  const status = (error as { status?: unknown } | null)?.status;
  if (status === 404)
    return { status: 404, code: 'not-found', message: 'This file is not there any more.', problems: [] };
  if (isBodyError(error))
    return {
      status: error.status,
      code: 'bad-body',
      message: `The request could not be read: ${error.message}`,
      problems: [],
    };
  if (typeof status === 'number' && status >= 400 && status < 500)
    return { status, code: 'bad-request', message: 'This request cannot be read.', problems: [] };
  return {
    status: 500,
    code: 'fault',
    message: 'Something went wrong in Northfen; nothing was changed. Try again.',
    problems: [],
  };
}

/** Express's body parser marks its errors with a status and `expose`. */
function isBodyError(error: unknown): error is { status: number; message: string } {
  const { status, expose } = (error ?? {}) as { status?: unknown; expose?: unknown };
  return typeof status === 'number' && status < 500 && expose === true;
}
