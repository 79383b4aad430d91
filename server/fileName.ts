import filenamify from 'filenamify';

/**
 * Returns a name that every file system takes: without what some of them keep for themselves (Windows has names such as `con`
 * and refuses a dot at the end), and short enough.
 */
export function fileName(name: string): string {
  const plain = name
    .normalize('NFC')
    .replace(/[^\p{L}\p{N} ._,&()'’!+-]+/gu, '-')
    .replace(/^[.\s-]+|[.\s-]+$/g, '');
  if (plain === '') return 'northfen';
  const safe = filenamify(plain, { replacement: '-', maxLength: 80 }).replace(/[.\s]+$/g, '');
  return safe || 'northfen';
}
