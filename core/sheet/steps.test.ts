import { describe, expect, test } from '@jest/globals';
import { regattaMadeRight } from '../demo/setups.ts';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { PROCESSORS } from '../processors/processing.ts';
import { applyEdit, type Edit } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import { STEP_GROUPS, stateOf, stepsAsMarkdown, stepsOf } from './steps.ts';

/** A setup in which every step is ticked. */
function allTicked(setup: Setup): Setup {
  return stepsOf(setup).reduce<Setup>(
    (now, { id, text }) => applyEdit(now, { edit: 'tickStep', step: id, text }),
    setup,
  );
}

describe('the set-up sheet', () => {
  test('goes from machines to the check by ear, each step with an id of its own', () => {
    const steps = stepsOf(twoMachinesMadeRight());
    expect(new Set(steps.map(({ id }) => id)).size).toBe(steps.length);
    expect([...new Set(steps.map(({ group }) => group))]).toEqual(
      STEP_GROUPS.filter((group) => group !== 'Processing'),
    );
    const texts = steps.map(({ text }) => text);
    expect(texts).toContain('On Loft, add the virtual device “Records”.');
    expect(texts).toContain(
      'In Towline on Boathouse, choose “Call” as the output, with its own volume at 100 %.',
    );
    expect(texts).toContain('In the chat app, choose “Chat microphone” as the microphone.');
    expect(texts).toContain('Listen to track 4, “Voice”: Narrator alone.');
    expect(texts.find((text) => text.startsWith('Listen to track 3'))).toMatch(/nothing of .*Reedbox/);
  });

  test('names what is processed, what the recorder plays to headphones, and the tracks that carry something', () => {
    const setup = [
      {
        edit: 'addTrack',
        track: { name: 'Spare', uses: ['file'], purpose: 'edit', codec: 'pcm-s24', layout: 'stereo' },
      },
      {
        edit: 'updateSource',
        id: 'narrator',
        values: { processing: [{ does: 'high-pass', hz: 90 }, PROCESSORS.gate.initial] },
      },
    ].reduce<Setup>((now, edit) => applyEdit(now, edit as Edit), regattaMadeRight());
    const texts = stepsOf(setup).map(({ text }) => text);
    expect(texts).toContain(
      'On Narrator, switch on, in this order: high-pass at 90 Hz, then noise gate from −45.0 dB on, down by 40 dB.',
    );
    expect(texts).toContain('On the whole of “Live mix”, switch on, in this order: limiter at −1.0 dBTP.');
    expect(texts).toContain('In the recorder, let Own headphones hear Lock & Paddle at −11.4 dB.');
    expect(texts.find((text) => text.startsWith('Let everything sound'))).toContain(
      'the meters of 8 tracks move',
    );
  });

  test('a change marks only the steps that it touches as to be done again', () => {
    const done = allTicked(twoMachinesMadeRight());
    const changed = applyEdit(done, {
      edit: 'updateSource',
      id: 'reedbox',
      values: { into: 'loft.cable' },
    });
    const again = stepsOf(changed).filter((step) => stateOf(step, changed.ticks) === 'again');
    expect(again.map(({ id }) => id)).toEqual([
      'apps:reedbox',
      'check-by-ear:minute',
      'check-by-ear:live-mix',
      'check-by-ear:records-alone',
    ]);
    expect(stepsOf(changed).filter((step) => stateOf(step, changed.ticks) === 'open')).toEqual([]);
  });

  test('a new thing is a step to do, and a tick can be taken back', () => {
    const done = allTicked(regattaMadeRight());
    const [first] = stepsOf(done);
    const undone = applyEdit(done, { edit: 'tickStep', step: first.id, text: null });
    expect(stateOf(first, undone.ticks)).toBe('open');
  });

  test('as Markdown it has a box for each step', () => {
    const setup = allTicked(regattaMadeRight());
    const text = stepsAsMarkdown(setup);
    expect(text.match(/^- \[x\]/gm)).toHaveLength(stepsOf(setup).length);
    expect(text).toMatch(/^# Set-up sheet: Regatta, made right/);
  });

  test('as Markdown it keeps names as they are, whatever is in them', () => {
    const setup = regattaMadeRight();
    const name = 'One\n\n# Two <script>alert(1)</script> [x](y) & &lt; *z*';
    const text = stepsAsMarkdown({ ...setup, name, tracks: [{ ...setup.tracks[0], name }] });
    expect(text).not.toMatch(/<script>|^# Two|[^\\]\[x\]\(y\)|[^\\]\*z/m);
    expect(text).toContain(String.raw`One \# Two \<script\>alert(1)\</script\> \[x\](y) & &amp;lt; \*z\*`);
  });
});
