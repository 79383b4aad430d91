import type { IncomingHttpHeaders } from 'node:http';
import type { RequestHandler } from 'express';
import { HttpError } from './httpError.ts';

const LOCAL_NAMES = new Set(['127.0.0.1', 'localhost', '[::1]']);

/**
 * Refuses requests whose Host or Origin is not this machine's, or that the browser says come from a page of another site, so
 * that no web page elsewhere can reach in. Opening a page by an address or a link is allowed.
 */
export const localOnly: RequestHandler = (request, _response, next) => {
  const { host, origin } = request.headers;
  if (!host || !isLocal(`http://${host}`))
    throw new HttpError(403, 'foreign-host', 'Northfen answers only to this machine.');
  if (origin !== undefined && (!isLocal(origin) || new URL(origin).host !== host)) {
    throw new HttpError(403, 'foreign-origin', 'Northfen answers only to its own pages.');
  }
  if (isForeign(request.headers)) {
    throw new HttpError(403, 'foreign-page', 'Northfen answers only to its own pages.');
  }
  next();
};

/** What the browser says of where a request comes from (Fetch Metadata); other programs do not say anything. */
function isForeign(headers: IncomingHttpHeaders): boolean {
  const site = headers['sec-fetch-site'];
  if (site === undefined || site === 'same-origin' || site === 'none') return false;
  return !(headers['sec-fetch-mode'] === 'navigate' && headers['sec-fetch-dest'] === 'document');
}

function isLocal(address: string): boolean {
  return URL.canParse(address) && LOCAL_NAMES.has(new URL(address).hostname);
}
