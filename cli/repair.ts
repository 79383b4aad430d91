import { basename, resolve } from 'node:path';
import { leftOutLine } from '../core/deliver/leftOut.ts';
import { repairLines } from '../core/deliver/repair.ts';
import { printJson, printLines } from './print.ts';
import { working } from './runner.ts';

/** Writes a damaged recording anew and says what was saved and what was lost. */
export async function repair(
  path: string,
  out: string,
  options: { like?: string; json?: boolean },
): Promise<void> {
  const likePath = options.like === undefined ? undefined : resolve(options.like);
  const task = { path: resolve(path), outPath: resolve(out), likePath };
  const repaired = await working(`Repairing ${basename(path)}`, (runner, running) =>
    runner.run('repair', task, running),
  );
  if (options.json) printJson({ out, ...repaired });
  else printLines([...repairLines(repaired.tracks), ...repaired.left.map(leftOutLine), ...repaired.notes]);
}
