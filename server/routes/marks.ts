import express, { type Request, Router } from 'express';
import { z } from 'zod';
import { MarkValuesSchema } from '../../core/deliver/records.ts';
import type { ServerContext } from '../context.ts';
import type { MarkStore } from '../store/marks.ts';

const MarksSchema = z.array(MarkValuesSchema).min(1).max(500);

/** The marks of a recording. Mounted below it. */
export function recordingMarkRoutes({ checks, marks, events }: ServerContext): Router {
  return markRoutes(
    marks,
    (request) => checks.summary(String(request.params.id)).id,
    (ownerId) => events.send('marks', { ownerId }),
  );
}

/** The marks that were set while a setup was rehearsed. Mounted below it. */
export function rehearsalMarkRoutes({ setups, rehearsalMarks, events }: ServerContext): Router {
  return markRoutes(
    rehearsalMarks,
    (request) => setups.get(String(request.params.setupId)).id,
    (ownerId) => events.send('marks', { ownerId }),
  );
}

function markRoutes(
  marks: MarkStore,
  ownerOf: (request: Request) => string,
  changed: (ownerId: string) => void,
): Router {
  const router = Router({ mergeParams: true });

  router.get('/', (request, response) => {
    response.json(marks.list(ownerOf(request)));
  });

  router.post('/', express.json({ limit: '1mb' }), (request, response) => {
    const owner = ownerOf(request);
    const added = marks.add(owner, MarksSchema.parse(request.body));
    changed(owner);
    response.status(201).json(added);
  });

  router.put('/:markId', express.json(), (request, response) => {
    const owner = ownerOf(request);
    const mark = marks.change(owner, request.params.markId, MarkValuesSchema.parse(request.body));
    changed(owner);
    response.json(mark);
  });

  router.delete('/:markId', (request, response) => {
    const owner = ownerOf(request);
    marks.remove(owner, request.params.markId);
    changed(owner);
    response.status(204).end();
  });

  return router;
}
