import express, { Router } from 'express';
import { PresetSchema } from '../../core/records.ts';
import type { ServerContext } from '../context.ts';

/** Named processings. */
export function presetRoutes({ presets, events }: ServerContext): Router {
  const router = Router();

  router.get('/', (_request, response) => {
    response.json(presets.list());
  });

  router.put('/', express.json({ limit: '100kb' }), (request, response) => {
    presets.set(PresetSchema.parse(request.body));
    events.send('presets', {});
    response.status(204).end();
  });

  router.delete('/:name', (request, response) => {
    presets.remove(request.params.name);
    events.send('presets', {});
    response.status(204).end();
  });
  return router;
}
