import express, { Router } from 'express';
import { z } from 'zod';
import type { MediaFolder } from '../../core/check/records.ts';
import type { ServerContext } from '../context.ts';
import { listRecordings } from '../media/mediaFolder.ts';

const WatchSchema = z.strictObject({ on: z.boolean(), setupId: z.string().max(100).nullable() });

/** The media folder: what is in it, and whether new recordings are checked by themselves. */
export function mediaFolderRoutes({ mediaDir, watch, log }: ServerContext): Router {
  const router = Router();

  router.get('/', async (_request, response) => {
    const empty = { path: mediaDir, files: [], isCut: false, trouble: null, watch: watch.wanted };
    try {
      const listed = mediaDir === null ? {} : await listRecordings(mediaDir);
      response.json({ ...empty, ...listed } satisfies MediaFolder);
    } catch (error) {
      log.warn({ err: error }, 'the media folder cannot be read');
      const trouble = `The media folder ${mediaDir} cannot be read. Is it there, and is its disk connected?`;
      response.json({ ...empty, trouble } satisfies MediaFolder);
    }
  });

  router.put('/watch', express.json(), (request, response) => {
    watch.wanted = WatchSchema.parse(request.body);
    response.json(watch.wanted);
  });

  return router;
}
