import type { CheckSummary, FolderFile } from '../../../core/check/records.ts';
import { stateWords } from './looks.ts';

/** One line of the list: a recording that was added, or a file of the media folder that was not. */
export interface RecordingLine {
  key: string;
  name: string;
  bytes: number;
  date: string;
  durationS: number | null;
  check: CheckSummary | null;
  /** Below the media folder; null for what was uploaded. */
  path: string | null;
  words: string;
}

export type SortBy = 'name' | 'durationS' | 'bytes' | 'date' | 'words';

/** What of the list is shown, and in which order. */
export interface ListView {
  text: string;
  /** A verdict or state in words; empty for all. */
  words: string;
  by: SortBy;
  isDown: boolean;
}

/** What can be chosen to be shown alone. */
export const SHOWN_ALONE = ['not added', 'not checked yet', 'clean', 'not clean', 'not testable', 'failed'];

/** Returns the lines of the list: what was added, and the files of the media folder that were not. */
export function linesOf(checks: CheckSummary[], files: FolderFile[]): RecordingLine[] {
  const known = new Set(checks.flatMap(({ place, path }) => (place === 'folder' ? [path] : [])));
  const modified = new Map(files.map(({ path, modifiedAt }) => [path, modifiedAt]));
  return [
    ...checks.map((check) => ({
      key: check.id,
      name: check.name,
      bytes: check.bytes,
      date: (check.place === 'folder' ? modified.get(check.path) : undefined) ?? check.createdAt,
      durationS: check.durationS,
      check,
      path: check.place === 'folder' ? check.path : null,
      words: stateWords(check),
    })),
    ...files
      .filter(({ path }) => !known.has(path))
      .map(({ path, bytes, modifiedAt }) => ({
        key: `file ${path}`,
        name: path.slice(path.lastIndexOf('/') + 1),
        bytes,
        date: modifiedAt,
        durationS: null,
        check: null,
        path,
        words: 'not added',
      })),
  ];
}

/** Returns the lines that are shown, in order. */
export function shownLines(lines: RecordingLine[], { text, words, by, isDown }: ListView): RecordingLine[] {
  const looked = text.trim().toLowerCase();
  const shown = lines.filter(
    (line) =>
      (words === '' || line.words === words) &&
      (looked === '' || `${line.path ?? ''} ${line.name}`.toLowerCase().includes(looked)),
  );
  const order = isDown ? -1 : 1;
  return shown.sort((a, b) => {
    const [one, other] = [a[by] ?? -1, b[by] ?? -1];
    const first =
      typeof one === 'string' && typeof other === 'string'
        ? one.localeCompare(other, undefined, { numeric: true })
        : Number(one) - Number(other);
    return order * first || a.key.localeCompare(b.key);
  });
}
