import { describe, expect, test } from '@jest/globals';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { causesOf } from '../repair/causes.ts';
import { mend } from '../repair/mend.ts';
import { clearanceOf } from '../setup/clearance.ts';
import { applyEdit, type Edit } from '../setup/edits.ts';
import { brokenRules } from '../setup/rules.ts';
import type { Setup } from '../setup/schema.ts';
import { findingsOf } from './findings.ts';

const TODAY = '2026-05-01';
const right = twoMachinesMadeRight();
const found = (...edits: Edit[]) =>
  findingsOf(edits.reduce<Setup>(applyEdit, right), TODAY).map(({ id, severity, scenes, message }) => ({
    id,
    severity,
    scenes,
    message,
  }));

describe('scene by scene', () => {
  test('a source that is silent in one is told for live, the VOD and every track', () => {
    const gaps = found({ edit: 'updatePickup', id: 'capture', values: { scenes: ['race'] } });
    expect(gaps.map(({ id, severity }) => [id, severity])).toEqual([
      ['scene-gap:game:live:break', 'stop'],
      ['scene-gap:game:vod:break', 'stop'],
      ['scene-gap:game:upload-mix:break', 'warn'],
      ['scene-gap:game:boat:break', 'warn'],
    ]);
    expect(gaps[0].message).toBe(
      'In the scene “Break”, Lock & Paddle is silent at Live: its pickup does not sound there.',
    );
  });

  test('two pickups that never sound in one scene are no doubling, and in one they are', () => {
    const second: Edit[] = [
      { edit: 'updatePickup', id: 'capture', values: { scenes: ['race'] } },
      { edit: 'addPickup', id: 'other', pickup: { takes: 'loft.capture', gainDb: 0, scenes: ['break'] } },
      ...(['live-mix', 'vod-mix'] as const).map(
        (to): Edit => ({ edit: 'setSend', pickup: 'other', to, gainDb: -10 }),
      ),
      { edit: 'setSend', pickup: 'other', to: 'upload-mix', gainDb: -9 },
      { edit: 'setSend', pickup: 'other', to: 'boat', gainDb: 0 },
    ];
    expect(found(...second)).toEqual([]);
    const both = found(...second, { edit: 'updatePickup', id: 'other', values: {}, clear: ['scenes'] });
    expect(both.map(({ id, scenes }) => [id, scenes])).toEqual([
      ['doubled:game:live', ['race']],
      ['doubled:game:vod', ['race']],
      ['doubled:game:upload-mix', ['race']],
      ['doubled:game:boat', ['race']],
    ]);
    expect(both[0].message).toContain('6.0 dB louder than one copy; that is 6.0 dB above what you want');
  });

  test('a group of pickups sounds in the scenes that it is in, and one that lacks it is told', () => {
    const grouped: Edit[] = [
      { edit: 'addGroup', id: 'boat-group', group: { name: 'Boat', pickups: ['desk-feed', 'capture'] } },
      { edit: 'updatePickup', id: 'capture', values: {}, clear: ['scenes'] },
      { edit: 'updateScene', id: 'race', values: { groups: ['boat-group'] } },
    ];
    const gaps = found(...grouped);
    expect(new Set(gaps.map(({ id }) => id.split(':').slice(0, 2).join(' ')))).toEqual(
      new Set(['scene-gap narrator', 'scene-gap game']),
    );
    const lacking = grouped.reduce<Setup>(applyEdit, right);
    const causes = causesOf(lacking, TODAY);
    expect(causes.map(({ name }) => name)).toEqual(['The group “Boat” is not in the scene “Break”']);
    expect(causes[0].remedies[0].label).toBe('Put the group “Boat” into the scene “Break”');
    expect(findingsOf(mend(lacking, TODAY).setup, TODAY)).toEqual([]);
    expect(
      found(...grouped, { edit: 'updateScene', id: 'break', values: { groups: ['boat-group'] } }),
    ).toEqual([]);
    const without = applyEdit(lacking, { edit: 'removePickup', id: 'capture' });
    expect(without.groups).toEqual([{ id: 'boat-group', name: 'Boat', pickups: ['desk-feed'] }]);
    expect(brokenRules(applyEdit(lacking, { edit: 'removeGroup', id: 'boat-group' }))).toEqual([]);
  });

  test('a leak in one scene names the scene', () => {
    const [leak] = found(
      { edit: 'setSend', pickup: 'records', to: 'vod-mix', gainDb: -20 },
      { edit: 'updatePickup', id: 'records', values: { scenes: ['break'] } },
    );
    expect(leak).toMatchObject({ id: 'leak.vod:reedbox:vod', scenes: ['break'] });
    expect(leak.message).toMatch(/^In the scene “Break”, Reedbox stays in the VOD at −20.0 dB/);
  });
});

describe('the file as an audience', () => {
  test('what must not be kept is found on the live track, where that is recorded', () => {
    const kept = clearanceOf('own');
    const edits: Edit[] = [
      {
        edit: 'updateSource',
        id: 'quillpage',
        values: { clearance: { ...kept, upload: false, edit: false } },
      },
      { edit: 'setSend', pickup: 'pages', to: 'vod-mix', gainDb: null },
      { edit: 'setWish', source: 'quillpage', destination: 'vod', gainDb: null },
    ];
    expect(found(...edits)).toEqual([]);
    const recorded = found(...edits, {
      edit: 'updateTrack',
      id: 'live-mix',
      values: { uses: ['live', 'file'] },
    });
    expect(recorded.map(({ id, message }) => [id, message])).toEqual([
      [
        'in-file:quillpage:live',
        'Quillpage is recorded in track 1, “Live mix”, at −8.0 dB, and must not be kept.',
      ],
    ]);
  });
});

describe('copies', () => {
  const second = (gainDb: number, delayMs: number): Edit[] => [
    { edit: 'addPickup', id: 'again', pickup: { takes: 'loft.records', gainDb: 0, delayMs } },
    { edit: 'setSend', pickup: 'again', to: 'live-mix', gainDb },
  ];
  const doubled = (gainDb: number, delayMs: number) =>
    found(...second(gainDb, delayMs)).find(({ id }) => id === 'doubled:reedbox:live');

  test('are hollow when near, an echo from 30 ms on, and a note when far below', () => {
    expect(doubled(-16, 5)).toMatchObject({ severity: 'warn' });
    expect(doubled(-16, 5)?.message).toContain('it sounds hollow (first notch at 100 Hz)');
    expect(doubled(-16, 60)?.message).toContain('it comes again 60 ms later, as an echo');
    expect(doubled(-33, 5)).toMatchObject({ severity: 'note' });
    expect(doubled(-33, 5)?.message).not.toContain('hollow');
  });

  test('of opposite polarity take each other away, in reach as in the engine', () => {
    const turned = found(...second(-16, 0), {
      edit: 'setSend',
      pickup: 'again',
      to: 'live-mix',
      gainDb: -16,
      processing: [{ does: 'polarity' }],
    });
    expect(turned.map(({ id }) => id)).toContain('missing:reedbox:live');
  });
});
