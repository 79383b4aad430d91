import express, { type Response, Router } from 'express';
import type { Setup } from '../../core/setup/schema.ts';
import type { ServerContext } from '../context.ts';
import { goneSignal } from '../goneSignal.ts';
import { KeptSounds } from '../media/keptSounds.ts';
import { EditRequestSchema } from './setups.ts';

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

/** Measures what everybody hears of a setup as it is now, or would hear with an edit, which is not made. */
export function measureRoutes({ setups, media, runner, dataDir }: ServerContext): Router {
  const router = Router({ mergeParams: true });
  const kept = new KeptSounds(dataDir, runner);
  const measure = async (setup: Setup, response: Response) => {
    const signal = goneSignal(response);
    const mediaFiles = await kept.filesOf(setup, media);
    return runner.run('destinations', { setup, mediaFiles }, { signal });
  };

  router.get('/', async (request, response) => {
    const { setup, revision } = setups.get((request.params as { setupId: string }).setupId);
    response.json({ revision, destinations: await measure(setup, response) });
  });

  router.post('/', express.json({ limit: '2mb' }), async (request, response) => {
    const { revision, edit } = EditRequestSchema.parse(request.body);
    const setup = setups.tried((request.params as { setupId: string }).setupId, revision, edit);
    response.json({ revision, destinations: await measure(setup, response) });
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
