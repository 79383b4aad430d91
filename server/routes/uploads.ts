import { basename } from 'node:path';
import { FileStore } from '@tus/file-store';
import { Server } from '@tus/server';
import { Router } from 'express';
import { z } from 'zod';
import type { ServerContext } from '../context.ts';
import { uploadFolder } from '../jobs/checks.ts';

/** Where recordings are uploaded to, by the open protocol for resumable uploads (tus 1.0). */
export const UPLOADS = '/api/uploads';

/** Unfinished uploads are forgotten after so long (ms). */
const FORGOTTEN_AFTER_MS = 7 * 24 * 3600 * 1000;

const MetadataSchema = z.object({
  filename: z.string().trim().min(1).max(200).catch('recording'),
  setup: z.string().max(100).nullish(),
});

/** Takes in recordings that are uploaded: an upload that breaks off goes on where it was, also after a restart. */
export function uploadRoutes({ dataDir, checking, log }: ServerContext): Router {
  const store = new FileStore({
    directory: uploadFolder(dataDir),
    expirationPeriodInMilliseconds: FORGOTTEN_AFTER_MS,
  });
  const server = new Server({
    path: UPLOADS,
    relativeLocation: true,
    datastore: store,
    respectForwardedHeaders: false,
    async onUploadFinish(_request, response, upload) {
      const { filename, setup } = MetadataSchema.parse(upload.metadata ?? {});
      const added = await checking.add('upload', basename(upload.id), filename, setup ?? null);
      response.setHeader('Northfen-Check', added.id);
      return { res: response };
    },
  });
  store.deleteExpired?.().catch((error: unknown) => log.warn({ err: error }, 'old uploads were not removed'));
  const router = Router();
  router.use((request, response) => {
    // The router has taken its own part off the address, and the protocol’s server needs it whole.
    request.url = request.originalUrl;
    return server.handle(request, response);
  });
  return router;
}
