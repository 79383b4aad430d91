import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { voiceOver } from '../core/demo/setups.ts';
import { noise } from '../core/testing/tones.ts';
import { renderAndProve } from '../server/jobs/prove.ts';
import { threadRunner } from '../server/jobs/runner.ts';
import { writeSound } from '../server/testing.ts';

/** After the first renders have taken what they need, memory may move by this much (MB). */
const WARM_UP = 10;
const MOST_GROWTH_MB = 80;

/**
 * Renders and proves a short evening again and again on the same threads, and looks at the memory of the process.
 * @returns what is wrong
 */
export async function attackMemory(workerFile: string, renders: number): Promise<string[]> {
  const folder = mkdtempSync(join(tmpdir(), 'northfen-memory-'));
  const runner = threadRunner(workerFile);
  try {
    const mediaFiles: Record<string, string> = {};
    for (const [index, { id }] of voiceOver().sources.entries()) {
      mediaFiles[id] = join(folder, `${id}.wav`);
      await writeSound(mediaFiles[id], noise(index + 1, 8 * 48_000), {}, 'wav');
    }
    const seen: number[] = [];
    for (let i = 0; i < renders; i++) {
      const takePath = join(folder, 'take.mkv');
      await renderAndProve(runner, { setup: voiceOver(), mediaFiles, takePath, today: '2026-05-01' });
      seen.push(process.memoryUsage().rss / 2 ** 20);
    }
    const early = Math.max(...seen.slice(0, WARM_UP));
    const late = Math.min(...seen.slice(-WARM_UP));
    console.log(
      `memory: ${renders} renders, ${Math.round(early)} MB in the first ${WARM_UP}, ${Math.round(late)} MB in the last`,
    );
    return late > early + MOST_GROWTH_MB
      ? [`memory grew from ${Math.round(early)} to ${Math.round(late)} MB`]
      : [];
  } catch (error) {
    return [(error as Error).message];
  } finally {
    await runner.close();
    rmSync(folder, { recursive: true, force: true });
  }
}
