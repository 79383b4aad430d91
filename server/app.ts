import compression from 'compression';
import express, { type Express, type Request, type Response } from 'express';
import { pinoHttp } from 'pino-http';
import type { ServerContext } from './context.ts';
import { answerError } from './errors.ts';
import { HttpError } from './httpError.ts';
import { localOnly } from './localOnly.ts';
import { checkRoutes } from './routes/checks.ts';
import { deliveryRoutes, recordingRoutes } from './routes/deliveries.ts';
import { recordingMarkRoutes, rehearsalMarkRoutes } from './routes/marks.ts';
import { mediaRoutes } from './routes/media.ts';
import { mediaFolderRoutes } from './routes/mediaFolder.ts';
import { presetRoutes } from './routes/presets.ts';
import { measureRoutes, renderRoutes, setupRenderRoutes } from './routes/renders.ts';
import { roomRoutes } from './routes/rooms.ts';
import { setupRoutes } from './routes/setups.ts';
import { soundingRoutes } from './routes/sounding.ts';
import { soundRoutes } from './routes/sounds.ts';
import { takeRoutes } from './routes/takes.ts';
import { UPLOADS, uploadRoutes } from './routes/uploads.ts';

const CONTENT_POLICY = [
  "default-src 'self'",
  "script-src 'self' 'wasm-unsafe-eval'",
  "style-src 'self' 'unsafe-inline'",
  "img-src 'self' data: blob:",
  "media-src 'self' blob:",
  "object-src 'none'",
  "base-uri 'none'",
  "form-action 'self'",
  "frame-ancestors 'none'",
].join('; ');

/** Returns the web application: the interface under /, its data under /api. */
export function createApp(context: ServerContext, webDir: string | null): Express {
  const app = express();
  app.disable('x-powered-by');
  app.use(pinoHttp({ logger: context.log, autoLogging: false }));
  app.use(localOnly);
  app.use((_request, response, next) => {
    response.set('X-Content-Type-Options', 'nosniff');
    response.set('Cross-Origin-Opener-Policy', 'same-origin');
    response.set('Cross-Origin-Embedder-Policy', 'require-corp');
    response.set('Content-Security-Policy', CONTENT_POLICY);
    next();
  });
  app.use(compression({ filter: isWorthPacking }));
  app.get('/api/events', (request, response) => context.events.connect(request, response));
  app.use('/api/setups/:setupId/renders', setupRenderRoutes(context));
  app.use('/api/setups/:setupId/destinations', measureRoutes(context));
  app.use('/api/setups/:setupId/room', roomRoutes(context));
  app.use('/api/setups/:setupId/sounding', soundingRoutes(context));
  app.use('/api/setups/:setupId/marks', rehearsalMarkRoutes(context));
  app.use('/api/setups', setupRoutes(context));
  app.use('/api/media', mediaRoutes(context));
  app.use('/api/sounds', soundRoutes(context));
  app.use('/api/presets', presetRoutes(context));
  app.use('/api/renders', renderRoutes(context));
  app.use('/api/takes', takeRoutes(context));
  app.use('/api/checks', checkRoutes(context));
  app.use('/api/checks/:id/marks', recordingMarkRoutes(context));
  app.use('/api/checks/:id', recordingRoutes(context));
  app.use('/api/deliveries', deliveryRoutes(context));
  app.use('/api/media-folder', mediaFolderRoutes(context));
  app.use(UPLOADS, uploadRoutes(context));
  app.use('/api', () => {
    throw new HttpError(404, 'not-found', 'There is nothing at this address.');
  });
  if (webDir) {
    app.use(express.static(webDir, { index: false, immutable: true, maxAge: '1y' }));
    app.get('/{*page}', (_request, response) => {
      response.set('Cache-Control', 'no-cache');
      response.sendFile('index.html', { root: webDir });
    });
  }
  app.use(answerError);
  return app;
}

/** Text is packed; events go out one by one, and sound and figures do not get smaller. */
function isWorthPacking(_request: Request, response: Response): boolean {
  const type = String(response.getHeader('Content-Type') ?? '');
  return /^(text\/(?!event-stream)|application\/(json|javascript|wasm)|image\/svg)/.test(type);
}
