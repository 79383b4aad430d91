import { join } from 'node:path';
import express, { type Express } from 'express';
import { pinoHttp } from 'pino-http';
import type { ServerContext } from './context.ts';
import { answerError } from './errors.ts';
import { HttpError } from './httpError.ts';
import { localOnly } from './localOnly.ts';
import { mediaRoutes } from './routes/media.ts';
import { presetRoutes } from './routes/presets.ts';
import { earRoutes, renderRoutes, setupRenderRoutes } from './routes/renders.ts';
import { roomRoutes } from './routes/rooms.ts';
import { setupRoutes } from './routes/setups.ts';
import { soundRoutes } from './routes/sounds.ts';
import { takeRoutes } from './routes/takes.ts';

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
    response.set(
      'Content-Security-Policy',
      "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; media-src 'self' blob:",
    );
    next();
  });
  app.get('/api/events', (request, response) => context.events.connect(request, response));
  app.use('/api/setups/:setupId/renders', setupRenderRoutes(context));
  app.use('/api/setups/:setupId/ears', earRoutes(context));
  app.use('/api/setups/:setupId/room', roomRoutes(context));
  app.use('/api/setups', setupRoutes(context));
  app.use('/api/media', mediaRoutes(context));
  app.use('/api/sounds', soundRoutes(context));
  app.use('/api/presets', presetRoutes(context));
  app.use('/api/renders', renderRoutes(context));
  app.use('/api/takes', takeRoutes(context));
  app.use('/api', () => {
    throw new HttpError(404, 'not-found', 'There is nothing at this address.');
  });
  if (webDir) {
    app.use(express.static(webDir, { index: false, immutable: true, maxAge: '1y' }));
    app.get('/{*page}', (_request, response) => {
      response.set('Cache-Control', 'no-cache');
      response.sendFile(join(webDir, 'index.html'));
    });
  }
  app.use(answerError);
  return app;
}
