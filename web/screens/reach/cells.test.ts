import { describe, expect, test } from '@jest/globals';
import { regattaMadeRight, regattaWithFaults } from '../../../core/demo/setups.ts';
import { twoMachinesWithFaults } from '../../../core/demo/twoMachines.ts';
import { findingsOf } from '../../../core/findings/findings.ts';
import { intentOf } from '../../../core/reach/intent.ts';
import { reachOf } from '../../../core/reach/reach.ts';
import { attempt } from '../../../core/repair/attempt.ts';
import { applyEdit } from '../../../core/setup/edits.ts';
import type { Setup } from '../../../core/setup/schema.ts';
import { faultsOf } from '../../../core/testing/faults.ts';
import { RIGHT_ROOMS } from '../../../core/testing/rooms.ts';
import { cellState, describeCell, markIn } from './cells.ts';

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

  test.each(RIGHT_ROOMS)('is marked wherever a finding is about it, with faults in %s', (_, right) => {
    const faulty = faultsOf(right).flatMap((fault, i) =>
      i % 4 === 0 ? (attempt(right, { edit: 'batch', label: fault.name, edits: fault.edits }) ?? []) : [],
    );
    const unmarked = faulty.flatMap((setup) => {
      const reach = reachOf(setup);
      const findings = findingsOf(setup, '2026-05-01', reach);
      return findings
        .filter(
          ({ code, source, destination }) =>
            // What is fused is bracketed beside its rows.
            code !== 'fused' &&
            source !== null &&
            destination !== null &&
            markIn(cellState(reach, intentOf(setup), findings, source, destination)) === null,
        )
        .map(({ id }) => id);
    });
    expect(faulty.length).toBeGreaterThan(10);
    expect(unmarked).toEqual([]);
  });

  test('shows the gravest of its findings', () => {
    const right = regattaMadeRight();
    const kept = applyEdit(right, {
      edit: 'updateSource',
      id: 'bosun',
      values: { clearance: { live: true, vod: false, upload: false, edit: false } },
    });
    const [{ destination }] = findingsOf(kept, '2026-05-01').filter(({ code }) => code === 'in-file');
    expect(cellOf(kept, 'bosun', destination ?? '').verdict).toBe('leak');
    const silent = twoMachinesWithFaults();
    expect(cellOf(silent, 'narrator', 'live').verdict).toBe('gap');
  });

  test('is told in words to those who do not see it', () => {
    const say = (source: string, destination: string) =>
      describeCell('It', 'there', cellOf(regattaWithFaults(), source, destination));
    expect(say('reedbox', 'vod')).toBe('It at there: −16.0 leak, in dB: not cleared');
    expect(say('bellbuoy', 'vod')).toBe('It at there: dry, wanted but does not arrive');
    expect(say('game', 'friends')).toBe('It at there: −12.0 stray, in dB: not wanted here');
  });
});
