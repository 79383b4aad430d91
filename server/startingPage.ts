import type { RequestListener } from 'node:http';
import { escaped } from '../core/words/escaped.ts';

/** What the server answers with until it is ready: a page that looks again by itself, or an error for programs. */
export function startingPage(stateOf: () => string): RequestListener {
  return (request, response) => {
    const isApi = request.url?.startsWith('/api');
    response.setHeader('Retry-After', '1');
    response.setHeader('Cache-Control', 'no-store');
    response.setHeader('Content-Security-Policy', "default-src 'none'; style-src 'unsafe-inline'");
    response.statusCode = 503;
    if (isApi) {
      response.setHeader('Content-Type', 'application/json; charset=utf-8');
      response.end(JSON.stringify({ error: { code: 'starting', message: stateOf(), problems: [] } }));
      return;
    }
    response.setHeader('Content-Type', 'text/html; charset=utf-8');
    response.end(page(stateOf()));
  };
}

function page(state: string): string {
  return `<!doctype html>
<html lang="en">
<head><meta charset="utf-8"><meta http-equiv="refresh" content="1"><meta name="viewport" content="width=device-width">
<title>Northfen is starting</title>
<style>
body { background: #F6F3EA; color: #1D2A2B; font: 18px/1.5 sans-serif; margin: 20vh auto; max-width: 32rem; padding: 0 1rem }
h1 { font-family: serif; font-weight: 600 }
</style></head>
<body><main><h1>Northfen is starting</h1><p role="status">${escaped(state)}</p><p>This page opens Northfen by itself when it is ready.</p></main></body>
</html>`;
}
