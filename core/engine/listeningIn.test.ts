import { expect, test } from '@jest/globals';
import type { Stereo } from '../audio/planes.ts';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { findingsOf } from '../findings/findings.ts';
import { reachOf } from '../reach/reach.ts';
import { mend } from '../repair/mend.ts';
import { applyEdit } from '../setup/edits.ts';
import { brokenRules } from '../setup/rules.ts';
import type { Setup } from '../setup/schema.ts';
import { rendered } from '../testing/rendering.ts';

const TODAY = '2026-05-01';
const FRAMES = 4800;
const right = twoMachinesMadeRight();
const on = applyEdit(right, {
  edit: 'updateMix',
  id: 'sluicebox.loft-feed',
  values: { listenedOn: 'sluicebox.phones' },
});

/** How many clicks of the narrator arrive at a destination. */
function clicksAt(setup: Setup, id: string): number {
  const stems = setup.sources.map((source): Stereo => {
    const plane = new Float32Array(FRAMES);
    if (source.id === 'narrator') plane[0] = 1;
    return [plane, plane.slice()];
  });
  return rendered(setup, stems)(id)[0].filter((value) => Math.abs(value) > 1e-4).length;
}

test('a mix that is listened in on plays there alone, as long as it is', () => {
  expect([clicksAt(right, 'live'), clicksAt(right, 'headphones')]).toEqual([1, 0]);
  expect([clicksAt(on, 'live'), clicksAt(on, 'headphones')]).toEqual([0, 1]);
  expect(reachOf(on).at('narrator', 'live')).toBeNull();
  const off = applyEdit(on, {
    edit: 'updateMix',
    id: 'sluicebox.loft-feed',
    clear: ['listenedOn'],
    values: {},
  });
  expect(off).toEqual(right);
});

test('it is found, says why the viewers hear nothing, and one step ends it', () => {
  const found = findingsOf(on, TODAY);
  expect(found.find(({ code }) => code === 'listening-in')?.message).toBe(
    'You listen in on the mix “Feed to Loft”: meanwhile it plays into “Headphones” alone, and not into “USB to Loft”.',
  );
  expect(found[0].message).toContain(
    'you listen in on the mix “Feed to Loft”, which plays nowhere else meanwhile',
  );
  const { setup, steps } = mend(on, TODAY);
  expect(steps.map(({ remedy }) => remedy.handwork)).toEqual([
    ['Stop listening in on the mix “Feed to Loft”.'],
  ]);
  expect(findingsOf(setup, TODAY)).toEqual([]);
});

test('one listens in on an output of the mix’s machine', () => {
  const elsewhere = applyEdit(on, {
    edit: 'updateMix',
    id: 'sluicebox.loft-feed',
    values: { listenedOn: 'loft.main' },
  });
  expect(brokenRules(elsewhere)[0].rule).toContain('is not an output of "sluicebox"');
  const gone = applyEdit(on, { edit: 'removeDevice', id: 'sluicebox.phones', rehome: null });
  expect(gone.mixes.find(({ id }) => id === 'sluicebox.loft-feed')?.listenedOn).toBeUndefined();
});
