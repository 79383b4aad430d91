import { expect, test } from '@jest/globals';
import { regattaMadeRight } from '../demo/setups.ts';
import { matchFiles } from './matchFiles.ts';

const { sources } = regattaMadeRight();

test('files go to the sources that they are named after', () => {
  const files = [
    '2026-05-01 bosun.wav',
    'Lock_and_Paddle.mkv',
    'REEDBOX-take2.flac',
    'holiday.wav',
    'wick.opus',
  ];
  expect(matchFiles(files, sources)).toEqual(['bosun', 'game', 'reedbox', null, 'wick']);
});

test('a kind is enough where no name says more, and nobody gets two', () => {
  expect(matchFiles(['mic.wav', 'gameplay.wav'], sources)).toEqual(['narrator', 'game']);
  expect(matchFiles(['bosun 1.wav', 'bosun 2.wav'], sources)).toEqual(['bosun', null]);
});
