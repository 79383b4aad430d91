import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { regattaMadeRight, regattaWithFaults, voiceOver } from '../demo/setups.ts';
import { findingsOf } from '../findings/findings.ts';
import { randomSetup } from '../testing/randomSetups.ts';
import { blankSetup } from './blank.ts';
import { changeBetween, isEmptyChange, replayChange, reverseChange } from './change.ts';
import {
  CLEARANCE_PRESETS,
  type ClearancePreset,
  clearanceAfter,
  clearanceOf,
  daysLeft,
  isCleared,
  presetOf,
  safePresetOf,
} from './clearance.ts';
import { applyEdit, type Edit, EditError, EditSchema } from './edits.ts';
import { parseSetup, readSetupFile, SetupFileError, writeSetupFile } from './file.ts';
import { newId } from './ids.ts';
import { setupJsonSchema } from './jsonSchema.ts';
import { type Setup, SOURCE_KINDS } from './schema.ts';

/** The problems with which a changed regatta is refused. */
function problemsOf(change: (setup: Record<string, never> & Setup) => void): string[] {
  const setup = structuredClone(regattaMadeRight()) as Record<string, never> & Setup;
  change(setup);
  try {
    readSetupFile(JSON.stringify(setup).replaceAll('"@NaN@"', 'NaN'));
    return [];
  } catch (error) {
    if (!(error instanceof SetupFileError)) throw error;
    return error.problems.map(({ field, rule }) => `${field}: ${rule}`);
  }
}

describe('the setup file', () => {
  test.each([regattaMadeRight(), regattaWithFaults(), voiceOver(), blankSetup('Blank')])(
    'is read as it was written: $name',
    (setup) => {
      expect(readSetupFile(writeSetupFile(setup))).toEqual(setup);
    },
  );

  test('random setups survive writing and reading', () => {
    fc.assert(
      fc.property(randomSetup, (setup) => expect(readSetupFile(writeSetupFile(setup))).toEqual(setup)),
    );
  });

  test('names with quotes, emoji and slashes are kept as they are', () => {
    const setup = regattaMadeRight();
    setup.sources[0].name = '"The ../Narrator" 🚤 <b>';
    expect(readSetupFile(writeSetupFile(setup)).sources[0].name).toBe('"The ../Narrator" 🚤 <b>');
  });

  test.each<[string, (setup: Record<string, never> & Setup) => void, RegExp]>([
    [
      'an unknown field',
      (setup) => Object.assign(setup.sources[2], { colour: 'red' }),
      /^sources\[2\]: does not know the field "colour"/,
    ],
    [
      'a duplicate id',
      (setup) => Object.assign(setup.sources[1], { id: 'reedbox' }),
      /^sources\[4\]\.id: the id "reedbox" is already used by sources\[1\]/,
    ],
    [
      'a send to a track that is not there',
      (setup) => Object.assign(setup.sends[3], { to: 'track-99' }),
      /^sends\[3\]\.to: there is no track/,
    ],
    [
      'a gain of 1e9',
      (setup) => Object.assign(setup.sends[0], { gainDb: 1e9 }),
      /^sends\[0\]\.gainDb: must be 24 dB or less/,
    ],
    [
      'a gain that is a text',
      (setup) => Object.assign(setup.sends[0], { gainDb: 'loud' }),
      /^sends\[0\]\.gainDb: must be a number of decibels/,
    ],
    [
      'a gain of NaN',
      (setup) => Object.assign(setup.sends[0], { gainDb: '@NaN@' }),
      /^file: this is not JSON text/,
    ],
    [
      'a newer version',
      (setup) => Object.assign(setup, { version: 3 }),
      /^version: is 3, but this Northfen reads up to version 2; open the file with a newer/,
    ],
    [
      'another format',
      (setup) => Object.assign(setup, { format: 'else' }),
      /^format: must be "northfen.setup"/,
    ],
    [
      'a pickup of nothing',
      (setup) => {
        setup.pickups[0].takes = 'gone';
      },
      /there is no source or device "gone"/,
    ],
    [
      'a scene that is not there',
      (setup) => {
        setup.pickups[0].scenes = ['lock'];
      },
      /there is no scene "lock"/,
    ],
    [
      'an impossible date',
      (setup) => Object.assign(setup.sources[0].clearance, { expiresOn: '2026-13-40' }),
      /^sources\[0\]\.clearance\.expiresOn: /,
    ],
  ])('refuses %s, naming the field and the rule', (_name, change, message) => {
    expect(problemsOf(change).join('\n')).toMatch(new RegExp(message.source, 'm'));
  });

  test('refuses NaN that comes in by other ways than text', () => {
    const setup = regattaMadeRight();
    setup.sends[0].gainDb = Number.NaN;
    expect(() => parseSetup(setup)).toThrow(/sends\[0\]\.gainDb: must be a number of decibels/);
  });

  test('the example in docs is a setup without findings', () => {
    const page = readFileSync(new URL('../../docs/setup-file.md', import.meta.url), 'utf8');
    const setup = readSetupFile(page.split('```json\n')[1].split('```')[0]);
    expect(findingsOf(setup, '2026-05-01')).toEqual([]);
  });

  test('opens a file of version 1, in which every pickup took one source', () => {
    const { machines: _m, devices: _d, links: _l, mixes: _x, scenes: _s, ...rest } = regattaMadeRight();
    const pickups = rest.pickups.map(({ takes, ...pickup }) => ({ ...pickup, source: takes }));
    const old = readSetupFile(JSON.stringify({ ...rest, version: 1, pickups }));
    expect(old).toEqual(regattaMadeRight());
    expect(findingsOf(old, '2026-05-01')).toEqual([]);
  });

  test('the JSON Schema in docs is the one that the code makes', () => {
    const shipped = JSON.parse(
      readFileSync(new URL('../../docs/setup.schema.json', import.meta.url), 'utf8'),
    );
    expect(shipped).toEqual(JSON.parse(JSON.stringify(setupJsonSchema())));
  });
});

describe('edits', () => {
  const random: fc.Arbitrary<(setup: Setup) => Edit> = fc
    .record({
      kind: fc.integer({ min: 0, max: 8 }),
      pick: fc.nat(),
      gain: fc.integer({ min: -60, max: 12 }),
      name: fc.string({ minLength: 1, maxLength: 12 }),
    })
    .map(({ kind, pick, gain, name }) => (setup: Setup): Edit => {
      const source = setup.sources[pick % setup.sources.length];
      const track = setup.tracks[pick % Math.max(1, setup.tracks.length)];
      const pickup = setup.pickups.find((one) => one.takes === source.id)?.id ?? '';
      const title = name.trim() || 'x';
      const sheet = {
        name: title,
        uses: [],
        purpose: 'edit' as const,
        codec: 'flac' as const,
        layout: 'mono' as const,
      };
      switch (kind) {
        case 0:
          return { edit: 'renameSetup', name: title };
        case 1:
          return { edit: 'updateSource', id: source.id, values: { levelDb: gain } };
        case 2:
          return { edit: 'setSend', pickup, to: 'headphones', gainDb: gain < -40 ? null : gain };
        case 3:
          return {
            edit: 'setWish',
            source: source.id,
            destination: 'live',
            gainDb: gain < -40 ? null : gain,
          };
        case 4:
          return { edit: 'addTrack', track: sheet };
        case 5:
          return track ? { edit: 'removeTrack', id: track.id } : { edit: 'addTrack', track: sheet };
        case 6:
          return setup.sources.length > 1
            ? { edit: 'removeSource', id: source.id }
            : { edit: 'setRecorder', values: { trackLimit: 3 } };
        case 7:
          return { edit: 'moveSource', id: source.id, to: pick % 5 };
        default:
          return {
            edit: 'addSource',
            source: {
              name: title,
              kind: 'music',
              clearance: clearanceOf('liveOnly'),
              levelDb: gain,
              media: null,
            },
          };
      }
    });

  test('any run of edits keeps the rules, and undoing all of it restores the setup', () => {
    fc.assert(
      fc.property(randomSetup, fc.array(random, { minLength: 1, maxLength: 15 }), (start, edits) => {
        let setup = start;
        const changes = edits.map((make) => {
          const after = parseSetup(applyEdit(setup, EditSchema.parse(make(setup))));
          const change = JSON.parse(JSON.stringify(changeBetween(setup, after)));
          setup = after;
          return change;
        });
        const end = setup;
        for (const change of [...changes].reverse()) setup = replayChange(setup, reverseChange(change));
        expect(setup).toEqual(start);
        for (const change of changes) setup = replayChange(setup, change);
        expect(setup).toEqual(end);
      }),
      { numRuns: 100 },
    );
  });

  test('leave the setup that they were given as it was', () => {
    const setup = regattaMadeRight();
    const copy = structuredClone(setup);
    applyEdit(setup, { edit: 'removeSource', id: 'reedbox' });
    expect(setup).toEqual(copy);
  });

  test('removing a source takes its pickup, sends and wishes along', () => {
    const after = applyEdit(regattaMadeRight(), { edit: 'removeSource', id: 'reedbox' });
    expect(JSON.stringify(after)).not.toContain('reedbox.pickup');
    expect(after.intent.some(({ source }) => source === 'reedbox')).toBe(false);
  });

  test('changing one value of a source leaves the others', () => {
    const edit = EditSchema.parse({ edit: 'updateSource', id: 'bellbuoy', values: { name: 'Bell' } });
    const after = applyEdit(regattaMadeRight(), edit);
    expect(after.sources[5]).toEqual({ ...regattaMadeRight().sources[5], name: 'Bell' });
  });

  test('an edit of a thing that is gone says so', () => {
    expect(() => applyEdit(regattaMadeRight(), { edit: 'removeTrack', id: 'gone' })).toThrow(EditError);
  });

  test('an edit that changes nothing makes an empty change', () => {
    const setup = regattaMadeRight();
    expect(
      isEmptyChange(changeBetween(setup, applyEdit(setup, { edit: 'renameSetup', name: setup.name }))),
    ).toBe(true);
  });
});

describe('ids and clearance', () => {
  test('an id is made from the name, and unlike the others', () => {
    expect(newId(regattaMadeRight(), 'Lock & Paddle')).toBe('lock-paddle');
    expect(newId(regattaMadeRight(), 'Réédbôx')).toBe('reedbox-2');
    expect(newId(regattaMadeRight(), '../🚤')).toBe('thing');
  });

  test('the presets are those of the table', () => {
    const uses = (preset: ClearancePreset) => Object.values(clearanceOf(preset)).map(Number).join('');
    expect(Object.keys(CLEARANCE_PRESETS).map((preset) => uses(preset as ClearancePreset))).toEqual([
      '1111',
      '1001',
      '1101',
      '0001',
      '0000',
    ]);
    expect(presetOf({ ...clearanceOf('own'), note: 'mine' })).toBe('own');
    expect(presetOf({ live: false, vod: true, upload: false, edit: false })).toBeNull();
  });

  test('a clearance holds through its last day', () => {
    const clearance = { ...clearanceOf('own'), expiresOn: '2026-05-01' };
    expect(isCleared(clearance, 'live', '2026-05-01')).toBe(true);
    expect(isCleared(clearance, 'live', '2026-05-02')).toBe(false);
  });
});

describe('the clearance that a source starts with', () => {
  test('is the safe one of its kind', () => {
    const uploads = SOURCE_KINDS.filter((kind) => clearanceOf(safePresetOf(kind)).upload);
    expect(uploads).toEqual(['microphone', 'game', 'alerts', 'instrument', 'handheld']);
    expect(safePresetOf('music')).toBe('liveOnly');
    expect(safePresetOf('voice chat')).toBe('liveAndVod');
    expect(safePresetOf('system')).toBe('never');
  });

  test('goes with the kind until it is chosen by hand', () => {
    const friends = clearanceAfter(clearanceOf('own'), 'game', 'voice chat');
    expect(presetOf(friends)).toBe('liveAndVod');
    const chosen = { ...clearanceOf('liveOnly'), note: 'agreed' };
    expect(clearanceAfter(chosen, 'game', 'voice chat')).toBe(chosen);
  });

  test('says how long it still holds', () => {
    const clearance = { ...clearanceOf('own'), expiresOn: '2026-05-10' };
    expect(daysLeft(clearance, '2026-05-01')).toBe(9);
    expect(daysLeft(clearance, '2026-05-12')).toBe(-2);
    expect(daysLeft(clearanceOf('own'), '2026-05-01')).toBeNull();
  });
});
