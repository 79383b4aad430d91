import { readdirSync } from 'node:fs';
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
export function uploadRoutes(context: ServerContext): Router {
  // Made where there are uploads (old ones are then removed), or when one comes: the store makes its folder once more by itself, beside, and ends the
  // process when that is gone by then.
  const hasUploads = readdirSync(uploadFolder(context.dataDir)).length > 0;
  let server = hasUploads ? uploadServer(context) : null;
  const router = Router();
  router.use((request, response) => {
    server ??= uploadServer(context);
    // The router has taken its own part off the address, and the protocol’s server needs it whole.
    request.url = request.originalUrl;
    return server.handle(request, response);
  });
  return router;
}

function uploadServer({ dataDir, checking, log }: ServerContext): Server {
  const store = new FileStore({
    directory: uploadFolder(dataDir),
    expirationPeriodInMilliseconds: FORGOTTEN_AFTER_MS,
  });
  store.deleteExpired?.().catch((error: unknown) => log.warn({ err: error }, 'old uploads were not removed'));
  return new Server({
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
}
