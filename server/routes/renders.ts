import { Router } from 'express';
import type { ServerContext } from '../context.ts';

/** Renders of a setup: start, list. */
export function setupRenderRoutes({ setups, jobs, renders }: ServerContext): Router {
  const router = Router({ mergeParams: true });

  router.get('/', (request, response) => {
    response.json(jobs.list((request.params as { setupId: string }).setupId));
  });

  router.post('/', (request, response) => {
    const stored = setups.get((request.params as { setupId: string }).setupId);
    response.status(202).json(renders.start(stored));
  });

  return router;
}

/** Measures what everybody hears of a setup as it is now. */
export function earRoutes({ setups, media, runner, dataDir }: ServerContext): Router {
  const router = Router({ mergeParams: true });
  router.get('/', async (request, response) => {
    const { setup, revision } = setups.get((request.params as { setupId: string }).setupId);
    const mediaFiles = media.filesOf(setup, dataDir);
    const gone = new AbortController();
    response.on('close', () => gone.abort());
    const ears = await runner.run('ears', { setup, mediaFiles }, { signal: gone.signal });
    response.json({ revision, ears });
  });
  return router;
}

/** One render: look, cancel. */
export function renderRoutes({ jobs, renders }: ServerContext): Router {
  const router = Router();

  router.get('/:id', (request, response) => {
    response.json(jobs.get(request.params.id));
  });

  router.post('/:id/cancel', (request, response) => {
    response.status(202).json(renders.cancel(request.params.id));
  });

  return router;
}
