import { describe, expect, test } from '@jest/globals';
import { regattaMadeRight, regattaWithFaults } from '../demo/setups.ts';
import { findingsOf } from '../findings/findings.ts';
import { reachOf } from '../reach/reach.ts';
import type { Setup } from '../setup/schema.ts';
import { conclusionOf, conclusionSentences } from './conclusion.ts';
import { type Measured, proofOf } from './proof.ts';

const TODAY = '2026-05-01';

/** What a measurement would say of a take that is just as the setup computes it. */
function measuredAsPlanned(setup: Setup, silent: string[] = []): Measured[] {
  const reach = reachOf(setup);
  return setup.sources.flatMap((source) =>
    setup.tracks.map((track) => {
      const destination = reach.destinations.find((one) => one.sendTo === track.id);
      const levelDb = (destination && reach.at(source.id, destination.id)?.gainDb) ?? null;
      const presence = {
        testable: !silent.includes(source.id),
        present: levelDb !== null && !silent.includes(source.id),
        ...{ levelDb, offsetMs: 0, confidence: 1, intervals: [] },
      };
      return { sourceId: source.id, trackId: track.id, presence };
    }),
  );
}

function concluded(setup: Setup, measured = measuredAsPlanned(setup)) {
  const proof = proofOf(setup, reachOf(setup), measured, TODAY);
  const conclusion = conclusionOf(setup, proof, findingsOf(setup, TODAY), TODAY);
  return { conclusion, text: conclusionSentences(setup, conclusion).join(' ') };
}

describe('what a take is said to show', () => {
  test('is proven only where every restricted source was tested on every track that goes out', () => {
    const { conclusion, text } = concluded(regattaMadeRight());
    expect(conclusion).toMatchObject({ kind: 'proven', leaks: 0, differences: 0, stops: [], untested: [] });
    expect(conclusion.tested).toBe(conclusion.restricted);
    expect(text).toMatch(/^Proven: .* All 5 sources that may not go everywhere were looked for/);
  });

  test('a restricted source that made no sound leaves it open, and is named', () => {
    const setup = regattaMadeRight();
    const { conclusion, text } = concluded(setup, measuredAsPlanned(setup, ['reedbox']));
    expect(conclusion).toMatchObject({ kind: 'partly', tested: 4, restricted: 5 });
    expect(text).toBe(
      'Nothing leaks in what was tested, but not everything was: 4 of 5 restricted sources; Reedbox makes no sound in this take, so nothing is known about it.',
    );
  });

  test('one that has no recording is said to have none', () => {
    const whole = regattaMadeRight();
    const setup = {
      ...whole,
      sources: whole.sources.map((one) => (one.id === 'reedbox' ? { ...one, media: null } : one)),
    };
    const { text } = concluded(setup, measuredAsPlanned(setup, ['reedbox']));
    expect(text).toContain('Reedbox has no recording, so nothing is known about it.');
  });

  test('a source that may go everywhere need not be tested', () => {
    const setup = regattaMadeRight();
    expect(concluded(setup, measuredAsPlanned(setup, ['bellbuoy'])).conclusion.kind).toBe('proven');
  });

  test('a leak is a leak, and what stands against the wishes is said as well', () => {
    const { conclusion, text } = concluded(regattaWithFaults());
    expect(conclusion.kind).toBe('leaks');
    expect(conclusion.leaks).toBe(3);
    expect(text).toMatch(/^Not safe to publish: 3 places .* 4 things stand against what you want: /);
  });

  test('a wish that is not met is not proven, though every track is as planned', () => {
    const whole = regattaMadeRight();
    const vod = whole.tracks.find(({ uses }) => uses.includes('vod'))?.id;
    const setup = {
      ...whole,
      sends: whole.sends.filter(({ pickup, to }) => !(pickup === 'narrator.pickup' && to === vod)),
    };
    const { conclusion, text } = concluded(setup);
    expect(conclusion).toMatchObject({ kind: 'differs', leaks: 0, differences: 0 });
    expect(text).toMatch(
      /^1 thing stands against what you want: You want Narrator at VOD, and it does not arrive/,
    );
  });
});
