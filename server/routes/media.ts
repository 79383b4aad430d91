import { randomUUID } from 'node:crypto';
import { rm } from 'node:fs/promises';
import { extname, join } from 'node:path';
import { Router } from 'express';
import { z } from 'zod';
import type { ServerContext } from '../context.ts';
import { goneSignal } from '../goneSignal.ts';
import { HttpError } from '../httpError.ts';
import { mediaType } from '../media/mediaType.ts';
import { receiveFile } from '../media/receiveFile.ts';
import { partOf, registerMedia } from '../media/registerMedia.ts';
import { sendFile } from '../sendFile.ts';
import { mediaPath } from '../store/media.ts';

/** An upload may take as long as it needs; one in which nothing arrives for this long (ms) is ended. */
const SILENT_UPLOAD_MS = 120_000;

const UploadSchema = z.object({
  name: z.string().trim().min(1, 'must not be empty').max(200, 'must be 200 characters or fewer'),
  allowCut: z.enum(['0', '1']).default('0'),
});

/** Recordings: list, upload by streaming to disk, download, delete. */
export function mediaRoutes(context: ServerContext): Router {
  const { media, setups, events, dataDir } = context;
  const router = Router();

  router.get('/', (_request, response) => {
    response.json(media.list());
  });

  router.post('/', async (request, response) => {
    const { name, allowCut } = UploadSchema.parse(request.query);
    const file = `${randomUUID()}${safeExtension(name)}`;
    const part = join(dataDir, 'media', partOf(file));
    const gone = goneSignal(response);
    try {
      request.setTimeout(SILENT_UPLOAD_MS);
      await receiveFile(request, part);
      const { row, otherTracks } = await registerMedia(context, {
        file,
        name,
        allowCut: allowCut === '1',
        signal: gone,
      }).catch((error: Error) => {
        error.message = error.message.replaceAll(partOf(file), name);
        throw error;
      });
      events.send('media', {});
      response.status(201).json({ ...row, path: mediaPath(file), otherTracks });
    } catch (error) {
      await rm(part, { force: true });
      throw error;
    }
  });

  router.get('/:id/file', (request, response, next) => {
    const row = media.get(request.params.id);
    response.type(mediaType(row.file, row.codec));
    sendFile(response, row.file, join(dataDir, 'media'), next);
  });

  router.delete('/:id', async (request, response) => {
    const row = media.get(request.params.id);
    const users = setups
      .list()
      .filter(({ id }) =>
        setups.get(id).setup.sources.some((one) => one.media?.path === mediaPath(row.file)),
      );
    if (users.length > 0) {
      const names = users.map((user) => `“${user.name}”`).join(', ');
      throw new HttpError(
        409,
        'in-use',
        `${row.name} is used by ${names}. Choose another recording there first.`,
      );
    }
    media.remove(row.id);
    await rm(join(dataDir, 'media', row.file), { force: true });
    events.send('media', {});
    response.status(204).end();
  });

  return router;
}

/** The extension of an uploaded name, when it is a harmless one; containers are told by content, not by name. */
function safeExtension(name: string): string {
  const extension = extname(name).toLowerCase();
  return /^\.[a-z0-9]{1,5}$/.test(extension) ? extension : '';
}
