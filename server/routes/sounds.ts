import { mkdir, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import express, { Router } from 'express';
import { z } from 'zod';
import type { Covariances } from '../../core/measure/covariance.ts';
import { ProcessingSchema } from '../../core/setup/processing.ts';
import type { ServerContext } from '../context.ts';
import { HttpError } from '../httpError.ts';
import { isThere, keptName } from '../media/stemFile.ts';
import { mediaPath } from '../store/media.ts';

const SoundsSchema = z.strictObject({
  sounds: z
    .array(
      z.strictObject({
        path: z.string().max(400),
        delayFrames: z.number().int().min(0).max(5_760_000),
        mono: z.boolean(),
        processing: ProcessingSchema.optional(),
      }),
    )
    .min(1)
    .max(400),
});

/**
 * What rehearsing and balancing need of recordings: each as raw stereo frames (with range requests), and the covariances of
 * several. Both are worked out once and kept in the data folder.
 */
export function soundRoutes({ media, runner, dataDir }: ServerContext): Router {
  const router = Router();
  const kept = join(dataDir, 'kept');
  const making = new Map<string, Promise<unknown>>();
  const fileOf = (path: string) => {
    const row = media.list().find((one) => mediaPath(one.file) === path);
    if (!row) throw new HttpError(404, 'not-found', `There is no recording ${path} any more.`);
    return row;
  };
  /** Makes a file once, however many ask for it at the same time. */
  const once = async (name: string, make: (path: string) => Promise<unknown>) => {
    const path = join(kept, name);
    if (await isThere(path)) return;
    await mkdir(kept, { recursive: true });
    const running = making.get(name) ?? make(path).finally(() => making.delete(name));
    making.set(name, running);
    await running;
  };

  router.get('/stem', async (request, response, next) => {
    const { path } = z.object({ path: z.string() }).parse(request.query);
    const row = fileOf(path);
    const name = keptName(['stem', row.id, row.bytes], '.f32');
    await once(name, (out) =>
      runner.run('unpack', { mediaFile: join(dataDir, 'media', row.file), path: out }),
    );
    response.type('application/octet-stream');
    response.sendFile(name, { root: kept }, next);
  });

  router.get('/calibration', async (request, response) => {
    const { path } = z.object({ path: z.string() }).parse(request.query);
    const { file } = fileOf(path);
    response.json(await runner.run('calibrate', { mediaFile: join(dataDir, 'media', file) }));
  });

  router.post('/covariances', express.json({ limit: '1mb' }), async (request, response, next) => {
    const { sounds } = SoundsSchema.parse(request.body);
    const files = sounds.map((sound) => ({ ...sound, row: fileOf(sound.path) }));
    const key = files.map(({ row, delayFrames, mono, processing }) => [
      row.id,
      row.bytes,
      delayFrames,
      mono,
      processing,
    ]);
    const name = keptName(['covariances', key], '.cov');
    await once(name, async (out) => {
      const found = await runner.run('covariances', {
        sounds: files.map(({ row, delayFrames, mono, processing }) => ({
          processing,
          file: join(dataDir, 'media', row.file),
          delayFrames,
          mono,
        })),
      });
      await writeFile(`${out}.part`, packed(found));
      await rename(`${out}.part`, out);
    });
    response.type('application/octet-stream');
    response.sendFile(name, { root: kept }, next);
  });

  return router;
}

/** Two counts (sounds, blocks; 32 bits each), then the rows. */
function packed({ sounds, blocks, pairs }: Covariances): Buffer {
  const head = Buffer.alloc(8);
  head.writeUInt32LE(sounds, 0);
  head.writeUInt32LE(blocks, 4);
  return Buffer.concat([head, Buffer.from(pairs.buffer, pairs.byteOffset, pairs.byteLength)]);
}
