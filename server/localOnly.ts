import type { RequestHandler } from 'express';
import { HttpError } from './httpError.ts';

const LOCAL_NAMES = new Set(['127.0.0.1', 'localhost', '[::1]']);

/** Refuses requests whose Host or Origin is not this machine's, so that no web page elsewhere can reach in. */
export const localOnly: RequestHandler = (request, _response, next) => {
  const { host, origin } = request.headers;
  if (!host || !isLocal(`http://${host}`))
    throw new HttpError(403, 'foreign-host', 'Northfen answers only to this machine.');
  if (origin !== undefined && (!isLocal(origin) || new URL(origin).host !== host)) {
    throw new HttpError(403, 'foreign-origin', 'Northfen answers only to its own pages.');
  }
  next();
};

function isLocal(address: string): boolean {
  return URL.canParse(address) && LOCAL_NAMES.has(new URL(address).hostname);
}
