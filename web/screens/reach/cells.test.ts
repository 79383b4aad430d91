import { describe, expect, test } from '@jest/globals';
import { regattaMadeRight, regattaWithFaults } from '../../../core/demo/setups.ts';
import { findingsOf } from '../../../core/findings/findings.ts';
import { intentOf } from '../../../core/reach/intent.ts';
import { reachOf } from '../../../core/reach/reach.ts';
import type { Setup } from '../../../core/setup/schema.ts';
import { cellState, describeCell } from './cells.ts';

function cellOf(setup: Setup, source: string, destination: string) {
  const reach = reachOf(setup);
  return cellState(reach, intentOf(setup), findingsOf(setup, '2026-05-01', reach), source, destination);
}

describe('a cell of the board', () => {
  test.each<[string, string, string, number | null]>([
    ['reedbox', 'vod', 'leak', -16],
    ['pings', 'live', 'leak', -14],
    ['bosun', 'upload-mix', 'leak', -6],
    ['bellbuoy', 'vod', 'dry', null],
    ['game', 'friends', 'stray', -12],
    ['game', 'live', 'open', -4],
    ['narrator', 'headphones', 'closed', null],
  ])('%s at %s is %s', (source, destination, verdict, gainDb) => {
    expect(cellOf(regattaWithFaults(), source, destination)).toMatchObject({ verdict, gainDb });
  });

  test('is open or closed, and nothing else, where everything is right', () => {
    const setup = regattaMadeRight();
    for (const source of setup.sources) {
      for (const destination of reachOf(setup).destinations) {
        const cell = cellOf(setup, source.id, destination.id);
        expect(cell.verdict).toBe(cell.wantedDb === null ? 'closed' : 'open');
        expect(cell.gainDb).toBe(cell.wantedDb);
      }
    }
  });

  test('is told in words to those who do not see it', () => {
    const say = (source: string, destination: string) =>
      describeCell('It', 'there', cellOf(regattaWithFaults(), source, destination));
    expect(say('reedbox', 'vod')).toBe('It at there: −16.0 leak, in dB: not cleared');
    expect(say('bellbuoy', 'vod')).toBe('It at there: dry, wanted but does not arrive');
    expect(say('game', 'friends')).toBe('It at there: −12.0 stray, in dB: not wanted here');
  });
});
