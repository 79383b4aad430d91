import { randomUUID } from 'node:crypto';
import { mkdir, rm } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { Router } from 'express';
import { z } from 'zod';
import { codedSources } from '../../core/sounding/compare.ts';
import type { ServerContext } from '../context.ts';
import { fileName } from '../fileName.ts';
import { goneSignal } from '../goneSignal.ts';
import { orNotFound } from '../httpError.ts';
import { once } from '../media/once.ts';
import { receiveFile } from '../media/receiveFile.ts';
import { writeCode } from '../media/soundingFiles.ts';
import { sendFile } from '../sendFile.ts';

/** A recording of test sounds may take as long to arrive as it needs; one in which nothing arrives for this long (ms) is ended. */
const SILENT_UPLOAD_MS = 120_000;
const ReadSchema = z.object({ today: z.iso.date(), name: z.string().trim().min(1).max(200) });
const CodeSchema = z.object({ download: z.literal('1').optional() });

/** The test sounds of a setup's sources, and reading a recording of them. Mounted below a setup. */
export function soundingRoutes({ setups, runner, dataDir }: ServerContext): Router {
  const router = Router({ mergeParams: true });
  const folder = join(dataDir, 'testSounds');

  router.get('/:source.wav', async (request, response, next) => {
    const { setupId, source: id } = request.params as { setupId: string; source: string };
    const { setup } = setups.get(setupId);
    const source = orNotFound(
      codedSources(setup).find((one) => one.id === id),
      'source',
    );
    const { download } = CodeSchema.parse(request.query);
    const file = `${source.id}-${source.sides}.wav`;
    await once(join(folder, file), (part) => writeCode(source, part), goneSignal(response));
    const name = setup.sources.find((one) => one.id === id)?.name ?? id;
    if (download) response.attachment(`${fileName(`Test sound ${name}`)}.wav`);
    sendFile(response, file, folder, next);
  });

  router.post('/', async (request, response) => {
    const { setupId } = request.params as { setupId: string };
    const { today, name } = ReadSchema.parse(request.query);
    const { setup } = setups.get(setupId);
    const gone = goneSignal(response);
    const part = join(folder, `${randomUUID()}.part`);
    await mkdir(folder, { recursive: true });
    try {
      request.setTimeout(SILENT_UPLOAD_MS);
      await receiveFile(request, part);
      const read = runner.run('sound', { setup, path: part, today }, { signal: gone });
      response.json(
        await read.catch((error: Error) => {
          error.message = error.message.replaceAll(basename(part), name);
          throw error;
        }),
      );
    } finally {
      await rm(part, { force: true });
    }
  });
  router.post('/simulated', async (request, response) => {
    const { setupId } = request.params as { setupId: string };
    const { today } = ReadSchema.pick({ today: true }).parse(request.query);
    const { setup } = setups.get(setupId);
    const gone = goneSignal(response);
    const path = join(folder, `${randomUUID()}.mkv`);
    await mkdir(folder, { recursive: true });
    try {
      response.json(await runner.run('simulateSounding', { setup, path, today }, { signal: gone }));
    } finally {
      await rm(path, { force: true });
    }
  });
  return router;
}
