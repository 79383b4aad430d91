import { rm } from 'node:fs/promises';
import express, { Router } from 'express';
import { z } from 'zod';
import { START_NAMES } from '../../core/demo/startNames.ts';
import { makeStart } from '../../core/demo/starts.ts';
import { EditSchema } from '../../core/setup/edits.ts';
import { readSetupFile, writeSetupFile } from '../../core/setup/file.ts';
import { NameSchema } from '../../core/setup/schema.ts';
import type { ServerContext } from '../context.ts';
import { fileName } from '../fileName.ts';
import { takeFolder } from '../jobs/renders.ts';

const StartSchema = z.strictObject({
  from: z.enum(START_NAMES),
  name: NameSchema.optional(),
});
const OperationSchema = z.uuid().optional();
const RevisionSchema = z.strictObject({ revision: z.number().int().min(1), operation: OperationSchema });
const BackSchema = RevisionSchema.extend({ edit: z.number().int().min(0) });
/** Which window asks, as part of the address: see `Author`. */
const WindowSchema = z.object({
  window: z.string().max(64).default(''),
  openedAt: z.coerce.number().int().min(0).default(Number.MAX_SAFE_INTEGER),
});
/** An edit, with the revision that it was made on. */
export const EditRequestSchema = RevisionSchema.extend({ edit: EditSchema });

/** Setups: list, start, import, edit, undo, redo, export, delete. */
export function setupRoutes({ setups, events, takes, dataDir }: ServerContext): Router {
  const router = Router();
  const changed = <T extends { id: string; revision: number }>(stored: T): T => {
    events.send('setup', { id: stored.id, revision: stored.revision });
    return stored;
  };

  router.get('/', (_request, response) => {
    response.json(setups.list());
  });

  router.post('/', express.json(), (request, response) => {
    const { from, name } = StartSchema.parse(request.body);
    const setup = makeStart(from);
    const stored = setups.create(name ? { ...setup, name } : setup);
    events.send('setups', {});
    response.status(201).json(stored);
  });

  router.post('/import', express.text({ type: '*/*', limit: '8mb' }), (request, response) => {
    const stored = setups.create(readSetupFile(typeof request.body === 'string' ? request.body : ''));
    events.send('setups', {});
    response.status(201).json(stored);
  });

  router.get('/:id', (request, response) => {
    response.json(setups.get(request.params.id, WindowSchema.parse(request.query)));
  });

  router.get('/:id/history', (request, response) => {
    response.json(setups.history(request.params.id));
  });

  router.delete('/:id', async (request, response) => {
    const { id } = request.params;
    const gone = takes.list(id);
    setups.remove(id);
    for (const take of gone) await rm(takeFolder(dataDir, take.id), { recursive: true, force: true });
    events.send('setups', {});
    response.status(204).end();
  });

  router.post('/:id/edits', express.json({ limit: '2mb' }), (request, response) => {
    const { revision, edit, operation } = EditRequestSchema.parse(request.body);
    const by = { ...WindowSchema.parse(request.query), operation };
    response.json(changed(setups.edit(request.params.id, revision, edit, by)));
  });

  router.post('/:id/undo', express.json(), (request, response) => {
    const { revision, operation } = RevisionSchema.parse(request.body);
    const by = { ...WindowSchema.parse(request.query), operation };
    response.json(changed(setups.undo(request.params.id, revision, by)));
  });

  router.post('/:id/redo', express.json(), (request, response) => {
    const { revision, operation } = RevisionSchema.parse(request.body);
    const by = { ...WindowSchema.parse(request.query), operation };
    response.json(changed(setups.redo(request.params.id, revision, by)));
  });

  router.post('/:id/back', express.json(), (request, response) => {
    const { revision, edit, operation } = BackSchema.parse(request.body);
    const by = { ...WindowSchema.parse(request.query), operation };
    response.json(changed(setups.back(request.params.id, revision, edit, by)));
  });

  router.post('/:id/copy', (request, response) => {
    const { setup } = setups.get(request.params.id);
    const stored = setups.create({ ...setup, name: copyName(setup.name, setups.list()) });
    events.send('setups', {});
    response.status(201).json(stored);
  });

  router.get('/:id/export', (request, response) => {
    const { setup } = setups.get(request.params.id);
    response
      .attachment(`${fileName(setup.name)}.northfen.json`)
      .type('application/json')
      .send(writeSetupFile(setup));
  });

  return router;
}

/** The name of a copy: "Evening, copy", "Evening, copy 2" … */
function copyName(name: string, known: { name: string }[]): string {
  const stem = `${name.slice(0, 70)}, copy`;
  const names = new Set(known.map((one) => one.name));
  for (let number = 1; ; number++) {
    const next = number === 1 ? stem : `${stem} ${number}`;
    if (!names.has(next)) return next;
  }
}
