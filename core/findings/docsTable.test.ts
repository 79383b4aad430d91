import { readFileSync } from 'node:fs';
import { expect, test } from '@jest/globals';
import { findingsTable } from './docsTable.ts';

test('the table of findings in the docs is the one that the code makes', () => {
  const docs = readFileSync(new URL('../../docs/wiring.md', import.meta.url), 'utf8');
  expect(docs).toContain(findingsTable());
});
