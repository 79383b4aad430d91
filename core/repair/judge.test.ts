import { expect, test } from '@jest/globals';
import type { Setup } from '../setup/schema.ts';
import { faultsOf } from '../testing/faults.ts';
import { RIGHT_ROOMS } from '../testing/rooms.ts';
import { wiringFaultsOf } from '../testing/wiringFaults.ts';
import { attempt } from './attempt.ts';
import { Judge, type Judged } from './judge.ts';

const TODAY = '2026-05-01';

/** What a judgement says, without how it was come to. */
function said({ bySource, flaws, total }: Judged) {
  const troubles = [...[...bySource.values()].flatMap((one) => one.troubles), ...flaws];
  return {
    total: Math.round(total * 1000) / 1000,
    troubles: troubles.map(
      ({ kind, place, scene, weight }) => `${kind} ${place} ${scene} ${weight.toFixed(3)}`,
    ),
  };
}

test.each(RIGHT_ROOMS)(
  'following only what a change touches comes to what following everything comes to: %s',
  (_, right: Setup) => {
    const judge = new Judge(right, TODAY);
    let last = judge.first;
    for (const fault of [...faultsOf(right), ...wiringFaultsOf(right)]) {
      const faulty = attempt(right, { edit: 'batch', label: 'fault', edits: fault.edits });
      if (!faulty) continue;
      const anew = said(new Judge(faulty, TODAY, judge.wanted).first);
      // From the right room, from the room with the fault before, and back.
      expect({ fault: fault.name, ...said(judge.judge(faulty, judge.first)) }).toEqual({
        fault: fault.name,
        ...anew,
      });
      const next = judge.judge(faulty, last);
      expect({ fault: fault.name, ...said(next) }).toEqual({ fault: fault.name, ...anew });
      expect(said(judge.judge(right, next))).toEqual(said(judge.first));
      last = next;
    }
  },
);
