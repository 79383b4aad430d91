import { showProgress } from './print.ts';
import type { NamedRecording } from './recordings.ts';

/** What came of one of many recordings: something, or why nothing did. */
export type OneOfMany<T> = { file: string } & (T | { error: string });

/**
 * Works through many recordings, one after the other; where one fails, the others go on.
 * @param count how many there are, where that is known
 * @param onDone is told what came of each
 */
export async function throughMany<T>(
  recordings: Iterable<NamedRecording> | AsyncIterable<NamedRecording>,
  count: number | null,
  work: (one: NamedRecording, onProgress: (share: number) => void) => Promise<T>,
  onDone: (result: OneOfMany<T>) => void,
): Promise<OneOfMany<T>[]> {
  const results: OneOfMany<T>[] = [];
  for await (const one of recordings) {
    const place = count === null ? '' : `${results.length + 1} of ${count}: `;
    const show = (share: number) => showProgress(`${place}${one.name}: ${Math.floor(100 * share)} %`);
    show(0);
    const result = { file: one.name, ...(await work(one, show).catch(orStopped)) };
    showProgress('');
    results.push(result);
    onDone(result);
  }
  return results;
}

/** @throws where it was stopped: then the others are not begun either */
function orStopped(error: unknown): { error: string } {
  if (error instanceof Error && error.name === 'AbortError') {
    showProgress('');
    throw error;
  }
  return { error: error instanceof Error ? error.message : String(error) };
}
