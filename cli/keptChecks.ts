import { createHash } from 'node:crypto';
import { readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { z } from 'zod';
import type { Verification } from '../core/check/verification.ts';
import type { Asked } from './asked.ts';

const FORMAT = 'northfen-checks';
const KeptSchema = z.object({
  format: z.literal(FORMAT),
  recordings: z.array(z.looseObject({ file: z.string(), key: z.string(), verdict: z.string() })),
});

/** What was found in recordings, kept in a file, so that many of them can be gone on with another time. */
export class KeptChecks {
  private readonly path: string;
  private readonly found: Map<string, Verification & { file: string }>;

  private constructor(path: string, found: Map<string, Verification & { file: string }>) {
    this.path = path;
    this.found = found;
  }

  /** Reads what was kept; nothing where there is no such file yet. @throws where the file holds something else */
  static async open(path: string): Promise<KeptChecks> {
    const text = await readFile(path, 'utf8').catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT') return null;
      throw new Error(`${path} cannot be read (${error.code}).`);
    });
    if (text === null) return new KeptChecks(path, new Map());
    const read = KeptSchema.safeParse(jsonOf(text));
    if (!read.success)
      throw new Error(
        `${path} does not hold checks that Northfen kept. Name another file; nothing was changed.`,
      );
    const kept = read.data.recordings as unknown as (Verification & { key: string; file: string })[];
    return new KeptChecks(path, new Map(kept.map(({ key, ...found }) => [key, found])));
  }

  /** What was found in a recording that was asked the same, where neither it nor the sounds have changed since; or null. */
  get(key: string): Verification | null {
    return this.found.get(key) ?? null;
  }

  /** Keeps what was found. @throws where it cannot be written */
  async add(key: string, file: string, found: Verification): Promise<void> {
    this.found.set(key, { file, ...found });
    const recordings = [...this.found].map(([one, kept]) => ({ key: one, ...kept }));
    const part = `${this.path}.part`;
    try {
      await writeFile(part, `${JSON.stringify({ format: FORMAT, recordings }, null, 2)}\n`);
      await rename(part, this.path);
    } catch (error) {
      await rm(part, { force: true });
      throw new Error(`${this.path} cannot be written (${(error as NodeJS.ErrnoException).code}).`);
    }
  }
}

/** What a recording and what is asked of it are known by: another one where any of the files was changed. */
export async function keyOf(path: string, { references, untested }: Asked): Promise<string> {
  const files = [path, ...references.flatMap((reference) => reference.path ?? [])];
  const states = await Promise.all(
    files.map(async (file) => {
      const info = await stat(file).catch(() => null);
      return [file, info?.size ?? null, info?.mtimeMs ?? null];
    }),
  );
  return createHash('sha256')
    .update(JSON.stringify([states, references, untested]))
    .digest('hex');
}

function jsonOf(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
