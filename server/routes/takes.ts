import { copyFile, link, rm } from 'node:fs/promises';
import { join } from 'node:path';
import express, { Router } from 'express';
import { z } from 'zod';
import { heardFoldOf } from '../../core/setup/channels.ts';
import { NameSchema } from '../../core/setup/schema.ts';
import type { ServerContext } from '../context.ts';
import { fileName } from '../fileName.ts';
import { orNotFound } from '../httpError.ts';
import { uploadFolder } from '../jobs/checks.ts';
import { takeFile, takeFolder } from '../jobs/renders.ts';
import { extractTrack } from '../media/extractTrack.ts';
import { sendFile } from '../sendFile.ts';

const RenameSchema = z.strictObject({ name: NameSchema });
const TrackNumberSchema = z.coerce.number().int().min(1);
const DownloadSchema = z.object({ download: z.literal('1').optional() });

/** Takes: list, look, rename, delete; the container file and each track as WAV (to play: folded down to stereo), both with range requests. */
export function takeRoutes({
  takes,
  events,
  dataDir,
  checks,
  checking,
  marks,
  rehearsalMarks,
}: ServerContext): Router {
  const router = Router();

  router.get('/', (request, response) => {
    response.json(takes.list(z.object({ setup: z.string() }).parse(request.query).setup));
  });

  router.get('/:id', (request, response) => {
    response.json(takes.get(request.params.id));
  });

  router.patch('/:id', express.json(), (request, response) => {
    const { name } = RenameSchema.parse(request.body);
    const take = takes.rename(request.params.id, name);
    events.send('takes', { setupId: take.setupId });
    response.json(take);
  });

  router.delete('/:id', async (request, response) => {
    const take = takes.get(request.params.id);
    takes.remove(take.id);
    await rm(takeFolder(dataDir, take.id), { recursive: true, force: true });
    events.send('takes', { setupId: take.setupId });
    response.status(204).end();
  });

  router.get('/:id/file', (request, response, next) => {
    const take = takes.get(request.params.id);
    response.attachment(`${fileName(`${take.setup.name} ${take.name}`)}.mkv`);
    sendFile(response, 'take.mkv', takeFolder(dataDir, take.id), next);
  });

  router.get('/:id/tracks/:number.wav', async (request, response, next) => {
    const take = takes.get(request.params.id);
    const number = TrackNumberSchema.parse(request.params.number);
    const { download } = DownloadSchema.parse(request.query);
    const track = orNotFound(take.setup.tracks[number - 1], 'track');
    const folder = takeFolder(dataDir, take.id);
    const fold = download ? undefined : (heardFoldOf(take.setup, track) ?? undefined);
    const file = await extractTrack(takeFile(dataDir, take.id), number - 1, folder, fold);
    if (download)
      response.attachment(`${fileName(`${take.setup.name} ${take.name} ${number} ${track.name}`)}.wav`);
    sendFile(response, file, folder, next);
  });

  /** Brings a take in as a recording, with what was marked while rehearsing, so that files can be made of it. */
  router.post('/:id/recording', async (request, response) => {
    const take = takes.get(request.params.id);
    const file = `take-${take.id}.mkv`;
    const isNew = checks.at('upload', file) === undefined;
    if (isNew) await placeBeside(takeFile(dataDir, take.id), join(uploadFolder(dataDir), file));
    const added = await checking.add('upload', file, `${take.setup.name}, ${take.name}.mkv`, take.setupId);
    const marked = rehearsalMarks.list(take.setupId);
    if (isNew && marked.length > 0)
      marks.add(
        added.id,
        marked.map(({ atS, endS, name }) => ({ atS, endS, name })),
      );
    response.status(201).json(added);
  });

  return router;
}

/** Lets a file be found in another folder as well; where the disk cannot do that, it is copied. */
async function placeBeside(from: string, to: string): Promise<void> {
  await rm(to, { force: true });
  await link(from, to).catch(() => copyFile(from, to));
}
