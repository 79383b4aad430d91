import { createHash } from 'node:crypto';
import { basename, join } from 'node:path';
import express, { Router } from 'express';
import { z } from 'zod';
import { CheckPlanSchema, planFromSetup, proposedPlan } from '../../core/check/plan.ts';
import { dayOf } from '../../core/setup/day.ts';
import type { ServerContext } from '../context.ts';
import { goneSignal } from '../goneSignal.ts';
import { orNotFound } from '../httpError.ts';
import { once } from '../media/once.ts';
import { sendFile } from '../sendFile.ts';

const SetupIdSchema = z.string().max(100).nullable();
const AddSchema = z.strictObject({
  paths: z.array(z.string().min(1).max(1000)).min(1).max(5000),
  setupId: SetupIdSchema,
});
const RenameSchema = z.strictObject({ name: z.string().trim().min(1, 'must not be empty').max(200) });
const PlanQuerySchema = z.object({ setup: z.string().max(100).optional() });
/** So much is heard at once at most (s). */
const MOST_PASSAGE_S = 60;
const PassageSchema = z
  .object({
    track: z.coerce.number().int().min(1).optional(),
    reference: z.string().max(300).optional(),
    from: z.coerce.number().min(-10).max(1_000_000),
    seconds: z.coerce.number().min(0.1).max(MOST_PASSAGE_S),
  })
  .refine(({ track, reference }) => (track === undefined) !== (reference === undefined), {
    message: 'say a track or a reference',
  });

/** Recordings to check: list, add from the media folder, check, stop, go on, listen, remove. */
export function checkRoutes(context: ServerContext): Router {
  const { checks, checking, setups, runner, dataDir, events } = context;
  const router = Router();
  const passages = join(dataDir, 'passages');

  router.get('/', (_request, response) => {
    response.json(checks.list());
  });

  router.post('/', express.json({ limit: '8mb' }), async (request, response) => {
    const { paths, setupId } = AddSchema.parse(request.body);
    if (setupId !== null) setups.get(setupId);
    const added = [];
    for (const path of paths) added.push(await checking.add('folder', path, basename(path), setupId));
    response.status(201).json(added);
  });

  router.get('/:id', (request, response) => {
    response.json(checks.get(request.params.id));
  });

  router.patch('/:id', express.json(), (request, response) => {
    const { name } = RenameSchema.parse(request.body);
    const summary = checks.update(request.params.id, { name });
    events.send('check', summary);
    response.json(summary);
  });

  router.delete('/:id', async (request, response) => {
    await context.delivering.release(request.params.id);
    await checking.remove(request.params.id);
    response.status(204).end();
  });

  /** The plan that a setup makes for the recording, or the one that its tracks suggest. */
  router.get('/:id/plan', (request, response) => {
    const { setup } = PlanQuerySchema.parse(request.query);
    const { tracks, proposals } = orNotFound(
      checks.get(request.params.id).inspected ?? undefined,
      'list of tracks',
    );
    const names = tracks.map(({ name }) => name);
    response.json(
      setup === undefined
        ? proposedPlan(names, proposals)
        : planFromSetup(setup, setups.get(setup).setup, names, dayOf(new Date())),
    );
  });

  router.post('/:id/check', express.json({ limit: '1mb' }), (request, response) => {
    response.status(202).json(checking.check(request.params.id, CheckPlanSchema.parse(request.body)));
  });

  router.post('/:id/stop', (request, response) => {
    response.json(checking.stop(request.params.id));
  });

  router.post('/:id/go-on', (request, response) => {
    response.json(checking.goOn(request.params.id));
  });

  router.get('/:id/passage.wav', async (request, response, next) => {
    const check = checks.get(request.params.id);
    const { track, reference, from, seconds } = PassageSchema.parse(request.query);
    const own = await checking.fileOf(check);
    const found = orNotFound(
      reference === undefined
        ? { track: (track ?? 1) - 1, path: own }
        : check.result?.references.find(({ name }) => name === reference),
      'reference',
    );
    const part = { path: found.path ?? own, track: found.track ?? 0, fromS: from, seconds };
    const key = JSON.stringify([part, check.bytes]);
    const file = `${createHash('sha256').update(key).digest('hex').slice(0, 24)}.wav`;
    await once(
      join(passages, file),
      (outPath, signal) => runner.run('passage', { ...part, outPath }, { signal }),
      goneSignal(response),
    );
    sendFile(response, file, passages, next);
  });

  return router;
}
