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
