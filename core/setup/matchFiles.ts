import type { Source } from './schema.ts';

/** Names shorter than this do not say enough to be found within others. */
const LEAST_WORD = 3;

/**
 * Guesses which source each of several recordings belongs to, by name: the source whose name (or app, or kind) shares the most
 * words with the file's. No source gets two.
 * @returns for each file the id of a source, or null
 */
export function matchFiles(files: string[], sources: Source[]): (string | null)[] {
  const scored = files.flatMap((file, at) =>
    sources.map((source) => ({ at, id: source.id, score: scoreOf(file, source) })),
  );
  const found: (string | null)[] = files.map(() => null);
  const taken = new Set<string>();
  for (const { at, id, score } of scored.sort((a, b) => b.score - a.score)) {
    if (score === 0 || found[at] !== null || taken.has(id)) continue;
    found[at] = id;
    taken.add(id);
  }
  return found;
}

/** How well a file's name fits a source; its own name counts more than its app, that more than its kind. */
function scoreOf(file: string, { name, app, kind }: Source): number {
  const stem = wordsOf(file.replace(/\.[^.]*$/, ''));
  return (
    4 * shared(stem, wordsOf(name)) + 2 * shared(stem, wordsOf(app ?? '')) + shared(stem, KIND_WORDS[kind])
  );
}

const KIND_WORDS: Record<Source['kind'], string[]> = {
  microphone: ['microphone', 'mic', 'voice', 'commentary'],
  game: ['game', 'gameplay'],
  'voice chat': ['chat', 'friends', 'call'],
  music: ['music', 'record', 'song'],
  browser: ['browser', 'web'],
  alerts: ['alert', 'alerts', 'bell'],
  system: ['system', 'desktop', 'notifications'],
  instrument: ['instrument', 'guitar', 'piano', 'keys'],
  handheld: ['handheld', 'console', 'line'],
  'sound pad': ['pad', 'sounds', 'effects'],
};

function wordsOf(text: string): string[] {
  return text
    .normalize('NFKD')
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter((word) => word.length >= LEAST_WORD);
}

/** How many words of one list begin a word of the other, or the other way round. */
function shared(one: string[], other: string[]): number {
  return one.filter((word) => other.some((second) => second.startsWith(word) || word.startsWith(second)))
    .length;
}
