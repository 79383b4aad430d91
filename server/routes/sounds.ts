import express, { Router } from 'express';
import { z } from 'zod';
import { ProcessingSchema, ProcessorSchema } from '../../core/processors/processing.ts';
import { IdSchema } from '../../core/values.ts';
import type { ServerContext } from '../context.ts';
import { goneSignal } from '../goneSignal.ts';
import { KeptSounds } from '../media/keptSounds.ts';
import { sendFile } from '../sendFile.ts';

/** A sound passes several places that process it. */
const MOST_STEPS_ON_A_WAY = 200;
const PathSchema = z.object({ path: z.string().max(400) });
const seconds = z.coerce.number().min(0).max(360_000).optional();
const CalibrationSchema = PathSchema.extend({ fromS: seconds, untilS: seconds }).refine(
  ({ fromS, untilS }) => (fromS === undefined) === (untilS === undefined) && (fromS ?? 0) < (untilS ?? 1),
  'a passage must have a beginning (fromS) and a later end (untilS)',
);
const SoundsSchema = z.strictObject({
  sources: z
    .array(z.strictObject({ id: IdSchema, path: z.string().max(400), processing: ProcessingSchema }))
    .min(1)
    .max(200),
  sounds: z
    .array(
      z.strictObject({
        sourceId: IdSchema,
        delayFrames: z.number().int().min(0).max(5_760_000),
        mono: z.boolean(),
        processing: z.array(ProcessorSchema).max(MOST_STEPS_ON_A_WAY),
      }),
    )
    .min(1)
    .max(400),
});

/** What rehearsing and balancing need of recordings: raw frames (with range requests), how they go together, and levels. */
export function soundRoutes({ media, runner, dataDir }: ServerContext): Router {
  const router = Router();
  const kept = new KeptSounds(dataDir, runner);

  router.get('/stem', async (request, response, next) => {
    const { path } = PathSchema.parse(request.query);
    const name = await kept.stem(media.at(path), goneSignal(response));
    response.type('application/octet-stream');
    sendFile(response, name, kept.folder, next);
  });

  router.get('/calibration', async (request, response) => {
    const { path, fromS, untilS } = CalibrationSchema.parse(request.query);
    const mediaFile = await kept.fileOf(media.at(path));
    const passage = fromS === undefined || untilS === undefined ? undefined : { fromS, untilS };
    response.json(await runner.run('calibrate', { mediaFile, passage }, { signal: goneSignal(response) }));
  });

  router.post('/covariances', express.json({ limit: '1mb' }), async (request, response, next) => {
    const { sources, sounds } = SoundsSchema.parse(request.body);
    const name = await kept.covariances(
      sources.map(({ path, ...source }) => ({ ...source, media: media.at(path) })),
      sounds,
      goneSignal(response),
    );
    response.type('application/octet-stream');
    sendFile(response, name, kept.folder, next);
  });

  return router;
}
