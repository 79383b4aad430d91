import { describe, expect, test } from '@jest/globals';
import { CODES } from '../findings/codes.ts';
import { GLOSSARY, glossaryEntry, wordsIn } from './glossary.ts';

describe('the glossary', () => {
  test('stands in the order of the alphabet, each word once, each explained in a sentence', () => {
    const words = GLOSSARY.map(({ word }) => word.toLowerCase());
    expect(words).toEqual([...words].sort((a, b) => a.localeCompare(b, 'en')));
    expect(new Set(GLOSSARY.flatMap(({ forms }) => forms)).size).toBe(
      GLOSSARY.flatMap(({ forms }) => forms).length,
    );
    for (const { means } of GLOSSARY) expect(means).toMatch(/^[A-Z].*[.]$/);
  });

  test('finds its words in a sentence whatever their form, and not inside of others', () => {
    const sentence =
      'Narrator and Wick come by one pickup, so they are fused; the VOD comes to −18.0 LUFS, 2.0 LU off.';
    expect(wordsIn(sentence).map(({ word }) => word)).toEqual(['pickup', 'fused', 'VOD', 'LUFS', 'LU']);
    expect(wordsIn('Sluicebox, embedded, undrifted').map(({ word }) => word)).toEqual([]);
    expect(glossaryEntry('Noise gate')?.word).toBe('noise gate');
  });

  test('explains the words that findings are described with', () => {
    for (const { when } of Object.values(CODES))
      for (const { means } of wordsIn(when)) expect(means.length).toBeGreaterThan(20);
    expect(wordsIn(CODES['leak.vod'].when).map(({ word }) => word)).toContain('VOD');
  });
});
