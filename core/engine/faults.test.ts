import { describe, expect, test } from '@jest/globals';
import { BLOCK_FRAMES, newStereo } from '../audio/planes.ts';
import { regattaGuessed } from '../demo/setups.ts';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { drillsOf } from '../drills/drills.ts';
import type { FindingCode } from '../findings/finding.ts';
import { findingsOf } from '../findings/findings.ts';
import { applyEdit, type SimpleEdit } from '../setup/edits.ts';
import { parseSetup } from '../setup/file.ts';
import { brokenRules } from '../setup/rules.ts';
import type { Setup } from '../setup/schema.ts';
import { noise, rms } from '../testing/tones.ts';
import { compile } from './compile.ts';
import { Renderer } from './renderer.ts';

const TODAY = '2026-05-01';
const FRAMES = 200 * BLOCK_FRAMES;

/**
 * What an output carries when one source plays noise and all others are silent: its level against the source (dB, −Infinity
 * for digital silence), over what comes after every delay has passed.
 */
function heard(setup: Setup, source: string, output: string, scene?: string): number {
  const schedule = compile(setup, { scene });
  const renderer = new Renderer(schedule, FRAMES);
  const sound = noise(7, FRAMES);
  const inputs = setup.sources.map(({ id }) => {
    const planes = newStereo(FRAMES);
    if (id === source) for (const plane of planes) plane.set(sound);
    return planes;
  });
  renderer.render(inputs, FRAMES);
  const plane = renderer.outputs[schedule.outputs.findIndex((one) => one.id === output)][0];
  return 20 * Math.log10(rms(plane.subarray(FRAMES / 2)) / rms(sound.subarray(FRAMES / 2)));
}

function planted(setup: Setup, ...edits: SimpleEdit[]): Setup {
  return parseSetup(edits.reduce<Setup>(applyEdit, setup));
}

function codesOf(setup: Setup): FindingCode[] {
  return findingsOf(setup, TODAY).map(({ code }) => code);
}

function send(pickup: string, to: string, gainDb: number | null): SimpleEdit {
  return { edit: 'setSend', pickup, to, gainDb };
}

const right = twoMachinesMadeRight();
const SILENT = Number.NEGATIVE_INFINITY;

describe('each fault of the chain is found by name and heard in the render', () => {
  test('made right, there is nothing to find', () => {
    expect(codesOf(right)).toEqual([]);
    expect(heard(right, 'reedbox', 'vod-mix')).toBe(SILENT);
  });

  test('1: all sound arrives as one mixed feed', () => {
    const setup = planted(right, {
      edit: 'setMixInput',
      mix: 'sluicebox.loft-feed',
      from: 'sluicebox.chat',
      values: { gainDb: 0 },
    });
    expect(codesOf(setup)).toEqual(expect.arrayContaining(['fused', 'no-own-track']));
    expect(heard(setup, 'bosun', 'voice')).toBeCloseTo(0, 1);
  });

  test('2: licensed music stays in the VOD, and in the upload', () => {
    const setup = planted(right, send('records', 'vod-mix', -16), send('records', 'upload-mix', -20));
    expect(codesOf(setup)).toEqual(['leak.vod', 'leak.upload']);
    expect(heard(setup, 'reedbox', 'vod-mix')).toBeCloseTo(-16, 1);
    expect(heard(setup, 'reedbox', 'upload-mix')).toBeCloseTo(-20, 1);
  });

  test('3: friends who talk over a moment cannot be taken out', () => {
    const base = regattaGuessed();
    const setup = planted(
      base,
      { edit: 'removeTrack', id: 'wick-alone' },
      send('wick.pickup', 'bosun-alone', 0),
    );
    expect(codesOf(setup)).toContain('no-own-track');
    expect(heard(setup, 'wick', 'bosun-alone')).toBeCloseTo(0, 1);
  });

  test('4: one sound arrives twice, and gets louder', () => {
    const setup = planted(
      right,
      { edit: 'updateSource', id: 'bellbuoy', values: { into: 'loft.main' } },
      { edit: 'addPickup', id: 'desktop', pickup: { takes: 'loft.main', gainDb: 0 } },
      send('desktop', 'live-mix', -8),
    );
    expect(codesOf(setup)).toEqual(['doubled']);
    expect(heard(setup, 'bellbuoy', 'live-mix')).toBeCloseTo(-8 + 6.02, 1);
  });

  test('5: an app was moved to a virtual device, and nobody hears it', () => {
    const setup = planted(right, { edit: 'updateSource', id: 'reedbox', values: { into: 'loft.cable' } });
    expect(codesOf(setup)).toEqual(expect.arrayContaining(['swallowed', 'missing']));
    for (const { id } of compile(setup).outputs) expect(heard(setup, 'reedbox', id)).toBe(SILENT);
  });

  test('6: the pickup of a whole device was muted against a doubling, and the alerts went with it', () => {
    const whole = planted(
      right,
      { edit: 'removePickup', id: 'bells' },
      { edit: 'updateSource', id: 'bellbuoy', values: { into: 'loft.main' } },
      { edit: 'addPickup', id: 'desktop', pickup: { takes: 'loft.main', gainDb: 0 } },
      send('desktop', 'live-mix', -8),
    );
    expect(heard(whole, 'bellbuoy', 'live-mix')).toBeCloseTo(-8, 1);
    const setup = planted(whole, send('desktop', 'live-mix', null));
    expect(codesOf(setup)).toContain('missing');
    expect(heard(setup, 'bellbuoy', 'live-mix')).toBe(SILENT);
  });

  test('7: a new game starts on the default device: heard, but without a track', () => {
    const elsewhere = planted(right, {
      edit: 'updateMachine',
      id: 'boathouse',
      values: { defaultOutput: 'boathouse.chat-out' },
    });
    const drill = drillsOf(elsewhere).find((one) => one.kind === 'new game');
    const struck = drill?.strike(elsewhere)?.setup as Setup;
    expect(codesOf(struck)).toEqual(expect.arrayContaining(['on-default', 'no-own-track', 'missing']));
    expect(heard(struck, 'new-game', 'headphones')).toBeCloseTo(0, 1);
    expect(heard(struck, 'new-game', 'boat')).toBe(SILENT);
  });

  test('8: an app restarts and falls back to the default without a word', () => {
    const drill = drillsOf(right).find((one) => one.id === 'restart.bosun');
    const struck = drill?.strike(right)?.setup as Setup;
    expect(codesOf(struck)).toEqual(expect.arrayContaining(['on-default', 'unwanted']));
    expect(heard(struck, 'bosun', 'boat')).toBeCloseTo(0, 1);
    expect(heard(struck, 'bosun', 'friends-alone')).toBe(SILENT);
  });

  test('9: friends hear themselves', () => {
    const setup = planted(right, {
      edit: 'setMixInput',
      mix: 'sluicebox.chat-mix',
      from: 'sluicebox.chat',
      values: { muted: false },
    });
    expect(codesOf(setup)).toContain('echo.party');
    expect(heard(setup, 'wick', 'friends')).toBeCloseTo(-10, 1);
  });

  test('10: the creator hears their own voice late, or twice', () => {
    const late = planted(right, send('desk-feed', 'headphones', 0), {
      edit: 'updatePickup',
      id: 'desk-feed',
      values: { delayMs: 30 },
    });
    expect(codesOf(late)).toContain('echo.self');
    expect(findingsOf(late, TODAY).find(({ code }) => code === 'echo.self')?.message).toContain('36 ms late');
    const twice = planted(late, {
      edit: 'setMixInput',
      mix: 'sluicebox.ears',
      from: 'sluicebox.mic',
      values: { muted: false },
    });
    expect(codesOf(twice)).toContain('echo.self');
    expect(heard(twice, 'narrator', 'headphones')).toBeCloseTo(10 * Math.log10(1 + 10 ** -1.2), 1);
  });

  test('11: the microphone reaches loudspeakers, and mixes that feed each other are cut', () => {
    const room = parseSetup({
      ...right,
      destinations: [
        ...right.destinations,
        { id: 'speakers', name: 'Loudspeakers', kind: 'loudspeakers', hears: ['sluicebox.to-loft'] },
      ],
    });
    expect(codesOf(room)).toContain('feedback');
    expect(heard(room, 'narrator', 'speakers')).toBeCloseTo(0, 1);
    const loop = planted(
      right,
      {
        edit: 'setMixInput',
        mix: 'sluicebox.ears',
        from: 'sluicebox.chat-mix',
        values: { gainDb: 0 },
      },
      {
        edit: 'setMixInput',
        mix: 'sluicebox.chat-mix',
        from: 'sluicebox.ears',
        values: { gainDb: 0 },
      },
    );
    expect(findingsOf(loop, TODAY).find(({ code }) => code === 'feedback')?.message).toMatch(/^A loop: Mix/);
    expect(Number.isFinite(heard(loop, 'narrator', 'friends'))).toBe(true);
  });

  test('12: listening in on a mix takes it away from the audience', () => {
    const drill = drillsOf(right).find((one) => one.kind === 'listening in');
    const struck = drill?.strike(right)?.setup as Setup;
    expect(codesOf(struck)).toContain('missing');
    expect(heard(struck, 'narrator', 'live-mix')).toBe(SILENT);
  });

  test('13: notifications ride along in the pickup of a whole device', () => {
    const setup = planted(right, { edit: 'updateSource', id: 'pings', values: { into: 'boathouse.game' } });
    expect(codesOf(setup)).toEqual(expect.arrayContaining(['leak.live', 'leak.vod', 'fused']));
    expect(heard(setup, 'pings', 'live-mix')).toBeCloseTo(-10, 1);
  });

  test('14: one scene was built without the audio', () => {
    const setup = planted(right, { edit: 'updatePickup', id: 'capture', values: { scenes: ['race'] } });
    expect(new Set(codesOf(setup))).toEqual(new Set(['scene-gap']));
    expect(heard(setup, 'game', 'live-mix', 'race')).toBeCloseTo(-10, 1);
    expect(heard(setup, 'game', 'live-mix', 'break')).toBe(SILENT);
  });

  test('15: a player that was left at 40 % makes every other setting wrong', () => {
    const setup = planted(right, { edit: 'updateSource', id: 'reedbox', values: { volumePercent: 40 } });
    expect(codesOf(setup)).toEqual(['player-volume']);
    expect(heard(setup, 'reedbox', 'live-mix')).toBeCloseTo(-16 + 20 * Math.log10(0.4), 1);
  });

  test('17: an analogue cable between two machines hums', () => {
    const setup = planted(right, { edit: 'updateLink', id: 'minnow-line', values: { isolated: false } });
    expect(codesOf(setup)).toEqual(['hum-risk']);
    expect(heard(setup, 'none', 'live-mix')).toBeGreaterThan(-60);
    expect(heard(right, 'none', 'live-mix')).toBe(SILENT);
  });

  test('18: two clocks drift apart', () => {
    const setup = planted(right, { edit: 'updateLink', id: 'hdmi', values: { converted: false } });
    expect(codesOf(setup)).toEqual(['drift']);
    const level = heard(setup, 'game', 'live-mix');
    expect(Math.abs(level + 10)).toBeLessThan(1.5);
  });

  test('21: a desk hands over no more mixes than it can', () => {
    const over = applyEdit(right, {
      edit: 'updateMix',
      id: 'sluicebox.ears',
      values: { into: ['sluicebox.phones', 'sluicebox.to-loft'] },
    });
    expect(brokenRules(over)[0].rule).toMatch(
      /Sluicebox can hand over 2 mixes, and “Mix for the friends” would be one more/,
    );
  });

  test('22: only one track can go live, and the file has few tracks', () => {
    const two = planted(right, { edit: 'updateTrack', id: 'voice', values: { uses: ['live', 'file'] } });
    expect(codesOf(two)).toContain('uses');
    const many = planted(right, { edit: 'setRecorder', values: { trackLimit: 6 } });
    expect(codesOf(many)).toEqual(['track-limit']);
  });
});
