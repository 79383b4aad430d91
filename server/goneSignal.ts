import type { Response } from 'express';

/** Returns a signal that aborts when whoever asked has gone away before the answer was sent. */
export function goneSignal(response: Response): AbortSignal {
  const gone = new AbortController();
  response.on('close', () => {
    if (!response.writableFinished) gone.abort();
  });
  return gone.signal;
}
