import { randomUUID } from 'node:crypto';
import express, { Router } from 'express';
import { z } from 'zod';
import { DeliveryOrderSchema } from '../../core/deliver/records.ts';
import { usualOrder } from '../../core/deliver/usual.ts';
import type { ServerContext } from '../context.ts';
import { orNotFound } from '../httpError.ts';
import { sendFile } from '../sendFile.ts';

const OrderSchema = z.strictObject({ checkId: z.string().max(100), order: DeliveryOrderSchema });
const UsualSchema = z
  .strictObject({
    checkIds: z.array(z.string().max(100)).min(1).max(1000),
    isVideo: z.boolean(),
    handoff: z.enum(['wav', 'flac']).nullable(),
  })
  .refine(({ isVideo, handoff }) => isVideo || handoff !== null, {
    message: 'choose the video, the tracks, or both',
  });
const FileSchema = z.object({ name: z.string().min(1).max(1000), save: z.string().optional() });

/** So many are listed over all recordings. */
const MOST_LISTED = 200;

/** What is made of recordings: order, follow, stop, make again, fetch, remove. */
export function deliveryRoutes({ checks, deliveries, delivering }: ServerContext): Router {
  const router = Router();

  router.get('/', (_request, response) => {
    response.json(deliveries.newest(MOST_LISTED));
  });

  router.post('/', express.json({ limit: '1mb' }), (request, response) => {
    const { checkId, order } = OrderSchema.parse(request.body);
    response.status(202).json(delivering.add(checkId, order));
  });

  /** What is usually made, of several recordings in one go. */
  router.post('/usual', express.json({ limit: '1mb' }), (request, response) => {
    const { checkIds, ...what } = UsualSchema.parse(request.body);
    const go = randomUUID();
    response.status(202).json(checkIds.map((id) => delivering.add(id, usualOrder(checks.get(id), what), go)));
  });

  router.get('/:id', (request, response) => {
    response.json(deliveries.get(request.params.id));
  });

  router.post('/:id/stop', (request, response) => {
    response.json(delivering.stop(request.params.id));
  });

  router.post('/:id/again', (request, response) => {
    response.json(delivering.again(request.params.id));
  });

  router.delete('/:id', async (request, response) => {
    await delivering.remove(request.params.id);
    response.status(204).end();
  });

  /** One of its files, to be heard or seen; with `save` to be kept. */
  router.get('/:id/file', (request, response, next) => {
    const { name, save } = FileSchema.parse(request.query);
    const { folder, files } = deliveries.get(request.params.id);
    const file = orNotFound(
      files.find((one) => one.name === name),
      'file',
    );
    if (save !== undefined) response.attachment(file.name.split('/').at(-1));
    // A page that was made is shown, and may do nothing.
    response.set(
      'Content-Security-Policy',
      "default-src 'none'; style-src 'unsafe-inline'; media-src 'self'",
    );
    sendFile(response, file.name, folder, next);
  });

  return router;
}

/** What was made of a recording. Mounted below it. */
export function recordingRoutes({ checks, deliveries }: ServerContext): Router {
  const router = Router({ mergeParams: true });

  router.get('/deliveries', (request, response) => {
    const { id } = request.params as { id: string };
    response.json(deliveries.list(checks.summary(id).id));
  });

  return router;
}
