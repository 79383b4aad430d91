import express, { Router } from 'express';
import { z } from 'zod';
import type { MediaFolder } from '../../core/check/records.ts';
import type { ServerContext } from '../context.ts';
import { listRecordings } from '../media/mediaFolder.ts';

const ArrivalsSchema = z.strictObject({ setupId: z.string().max(100).nullable(), watch: z.boolean() });

/** The media folder: what is in it, and what happens to new recordings. */
export function mediaFolderRoutes({ mediaDir, watch, log }: ServerContext): Router {
  const router = Router();

  router.get('/', async (_request, response) => {
    const empty = { path: mediaDir, files: [], isCut: false, trouble: null, arrivals: watch.arrivals };
    try {
      const listed = mediaDir === null ? {} : await listRecordings(mediaDir);
      response.json({ ...empty, ...listed } satisfies MediaFolder);
    } catch (error) {
      log.warn({ err: error }, 'the media folder cannot be read');
      const trouble = `The media folder ${mediaDir} cannot be read. Is it there, and is its disk connected?`;
      response.json({ ...empty, trouble } satisfies MediaFolder);
    }
  });

  router.put('/arrivals', express.json(), (request, response) => {
    watch.arrivals = ArrivalsSchema.parse(request.body);
    response.json(watch.arrivals);
  });

  return router;
}
