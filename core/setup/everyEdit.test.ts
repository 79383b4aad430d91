import { describe, expect, test } from '@jest/globals';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { gainText, listed } from '../words/figures.ts';
import { changeBetween, isEmptyChange, replayChange, reverseChange } from './change.ts';
import { clearanceOf } from './clearance.ts';
import { applyEdit, type Edit, EditSchema, nameOf } from './edits.ts';
import { describeEdit } from './editWords.ts';
import { parseSetup } from './file.ts';
import { find, inserted, moved, patched, replaced } from './lists.ts';
import type { Setup } from './schema.ts';
import { wiringEdits } from './wiringEdits.ts';

const setup = twoMachinesMadeRight();

/** One of every edit, what it is called in the history, and what of the setup it must have changed. */
const EDITS: [edit: Edit, words: string, look: (after: Setup) => unknown, expected: unknown][] = [
  [{ edit: 'renameSetup', name: 'Friday' }, 'rename the setup to Friday', (after) => after.name, 'Friday'],
  [
    { edit: 'setRecorder', values: { trackLimit: 7 } },
    'change the recorder',
    (after) => after.recorder,
    { machine: 'loft', trackLimit: 7 },
  ],
  [
    { edit: 'setLinkedFaders', groups: [['live', 'vod']] },
    'change which levels move together',
    (after) => after.linkedFaders,
    [['live', 'vod']],
  ],
  [
    {
      edit: 'addSource',
      source: {
        name: 'Ropeway',
        kind: 'game',
        clearance: clearanceOf('own'),
        machine: 'boathouse',
        into: 'default',
        levelDb: 0,
        media: null,
      },
      at: 0,
    },
    'add Ropeway',
    (after) => [after.sources[0].id, after.pickups.length],
    ['ropeway', 7],
  ],
  [
    {
      edit: 'addSource',
      source: {
        name: 'Here',
        kind: 'browser',
        clearance: clearanceOf('own'),
        machine: 'loft',
        levelDb: 0,
        media: null,
      },
    },
    'add Here',
    (after) => after.pickups.at(-1),
    { id: 'here.pickup', takes: 'here', gainDb: 0 },
  ],
  [
    { edit: 'addDestination', destination: { name: 'Night crew', kind: 'friends' } },
    'add Night crew',
    (after) =>
      after.destinations.map(({ id }) => id).indexOf('night-crew') <
      after.destinations.findIndex(({ kind }) => kind === 'live'),
    true,
  ],
  [
    { edit: 'removeDestination', id: 'headphones' },
    'remove Own headphones',
    (after) => [
      after.destinations.some(({ id }) => id === 'headphones'),
      after.intent.some(({ destination }) => destination === 'headphones'),
      after.sends.some(({ to }) => to === 'headphones'),
    ],
    [false, false, false],
  ],
  [
    { edit: 'updateSource', id: 'reedbox', values: { volumePercent: 60 }, clear: ['into'] },
    'change Reedbox',
    (after) => {
      const { volumePercent, into } = find(after.sources, 'source', 'reedbox');
      return [volumePercent, into];
    },
    [60, undefined],
  ],
  [
    { edit: 'removeSource', id: 'bellbuoy' },
    'remove Bellbuoy',
    (after) => [
      after.sources.length,
      after.pickups.some((one) => one.takes === 'bellbuoy'),
      after.sends.some((one) => one.pickup === 'bells'),
      after.intent.some((one) => one.source === 'bellbuoy'),
    ],
    [8, false, false, false],
  ],
  [{ edit: 'moveSource', id: 'minnow', to: 0 }, 'move Minnow', (after) => after.sources[0].id, 'minnow'],
  [
    {
      edit: 'addTrack',
      track: { name: 'Bells', uses: ['file'], purpose: 'edit', codec: 'flac', layout: 'mono' },
      at: 1,
    },
    'add the track Bells',
    (after) => after.tracks[1].id,
    'bells-2',
  ],
  [
    { edit: 'updateTrack', id: 'voice', values: { codec: 'flac' } },
    'change Voice',
    (after) => find(after.tracks, 'track', 'voice').codec,
    'flac',
  ],
  [
    { edit: 'removeTrack', id: 'boat' },
    'remove Game',
    (after) => [after.tracks.length, after.sends.some((send) => send.to === 'boat')],
    [6, false],
  ],
  [{ edit: 'moveTrack', id: 'boat', to: 0 }, 'move Game', (after) => after.tracks[0].id, 'boat'],
  [
    { edit: 'updateDestination', id: 'headphones', values: { hears: [], targetLufs: -20 } },
    'change Own headphones',
    (after) => after.destinations[0],
    { id: 'headphones', name: 'Own headphones', kind: 'headphones', hears: [], targetLufs: -20 },
  ],
  [
    { edit: 'setSend', pickup: 'call', to: 'voice', gainDb: -3 },
    'set Call to Voice',
    (after) => after.sends.at(-1),
    { pickup: 'call', to: 'voice', gainDb: -3 },
  ],
  [
    { edit: 'setSend', pickup: 'call', to: 'live-mix', gainDb: null },
    'close Call to Live mix',
    (after) => after.sends.some((send) => send.pickup === 'call' && send.to === 'live-mix'),
    false,
  ],
  [
    { edit: 'setWish', source: 'minnow', destination: 'headphones', gainDb: -9 },
    'want Minnow at Own headphones',
    (after) => after.intent.at(-1),
    { source: 'minnow', destination: 'headphones', gainDb: -9 },
  ],
  [
    { edit: 'setWish', source: 'minnow', destination: 'live', gainDb: null },
    'no longer want Minnow at Live',
    (after) => after.intent.some((wish) => wish.source === 'minnow' && wish.destination === 'live'),
    false,
  ],
  [
    { edit: 'tickStep', step: 'apps:game', text: 'done so' },
    'tick a step of the set-up sheet',
    (after) => after.ticks,
    { 'apps:game': 'done so' },
  ],
  [
    { edit: 'addMachine', machine: { name: 'Towpath', kind: 'console' } },
    'add the machine Towpath',
    (after) => after.machines.at(-1),
    { id: 'towpath', name: 'Towpath', kind: 'console' },
  ],
  [
    {
      edit: 'addDevice',
      device: { name: 'Cable B', machine: 'loft', direction: 'out', kind: 'virtual' },
    },
    'add the device Cable B',
    (after) => after.devices.at(-1)?.id,
    'cable-b',
  ],
  [
    {
      edit: 'addLink',
      link: { name: 'Spare', from: 'boathouse.call', to: 'loft.line', kind: 'network', latencyMs: 9 },
    },
    'add the link Spare',
    (after) => after.links.at(-1)?.id,
    'spare',
  ],
  [
    { edit: 'addMix', mix: { name: 'Side', machine: 'loft', inputs: [], into: ['loft.main'] } },
    'add the mix Side',
    (after) => after.mixes.at(-1)?.into,
    ['loft.main'],
  ],
  [{ edit: 'addScene', scene: { name: 'Outro' } }, 'add the scene Outro', (after) => after.scenes.length, 3],
  [
    { edit: 'addPickup', pickup: { takes: 'loft.main', gainDb: -3 } },
    'add the pickup Desktop',
    (after) => after.pickups.at(-1)?.takes,
    'loft.main',
  ],
  [
    { edit: 'updateMachine', id: 'loft', values: { name: 'Attic' }, clear: ['defaultOutput'] },
    'change Attic',
    (after) => find(after.machines, 'machine', 'loft'),
    { id: 'loft', name: 'Attic', kind: 'computer' },
  ],
  [
    { edit: 'updateDevice', id: 'loft.cable', values: { name: 'Page cable' } },
    'change Page cable',
    (after) => nameOf(after, 'loft.cable'),
    'Page cable',
  ],
  [
    { edit: 'updateLink', id: 'hdmi', values: { latencyMs: 60 } },
    'change HDMI cable',
    (after) => find(after.links, 'link', 'hdmi').latencyMs,
    60,
  ],
  [
    { edit: 'updateMix', id: 'sluicebox.ears', values: { into: [] } },
    'change Headphone mix',
    (after) => find(after.mixes, 'mix', 'sluicebox.ears').into,
    [],
  ],
  [
    { edit: 'updateScene', id: 'race', values: { name: 'Heat' } },
    'change Heat',
    (after) => after.scenes[0].name,
    'Heat',
  ],
  [
    { edit: 'updatePickup', id: 'call', values: { gainDb: -2 }, clear: ['scenes'] },
    'change Call',
    (after) => find(after.pickups, 'pickup', 'call'),
    { id: 'call', name: 'Call', takes: 'loft.call', gainDb: -2 },
  ],
  [
    { edit: 'removeDevice', id: 'loft.cable' },
    'remove Spare cable',
    (after) => after.devices.length,
    setup.devices.length - 1,
  ],
  [
    { edit: 'removeLink', id: 'minnow-line' },
    'remove Minnow’s line',
    (after) => after.links.length,
    setup.links.length - 1,
  ],
  [
    { edit: 'removeMix', id: 'sluicebox.ears' },
    'remove Headphone mix',
    (after) => after.mixes.length,
    setup.mixes.length - 1,
  ],
  [{ edit: 'removeScene', id: 'break' }, 'remove Break', (after) => after.scenes.length, 1],
  [
    { edit: 'removePickup', id: 'records' },
    'remove Records',
    (after) => after.sends.some((send) => send.pickup === 'records'),
    false,
  ],
  [
    {
      edit: 'setMixInput',
      mix: 'sluicebox.ears',
      from: 'sluicebox.mic',
      values: { muted: false, gainDb: -20 },
    },
    'set Microphone in Headphone mix',
    (after) => find(after.mixes, 'mix', 'sluicebox.ears').inputs[0],
    { from: 'sluicebox.mic', gainDb: -20, muted: false },
  ],
  [
    { edit: 'setMixInput', mix: 'sluicebox.ears', from: 'sluicebox.game', values: { muted: true } },
    'mute Game in Headphone mix',
    (after) => find(after.mixes, 'mix', 'sluicebox.ears').inputs[1].muted,
    true,
  ],
  [
    { edit: 'setMixInput', mix: 'sluicebox.ears', from: 'sluicebox.chat', values: null },
    'take Call out of Headphone mix',
    (after) => find(after.mixes, 'mix', 'sluicebox.ears').inputs.length,
    2,
  ],
  [
    { edit: 'addGroup', id: 'crew', group: { name: 'Crew', pickups: ['call', 'desk-feed'] } },
    'add the group Crew',
    (after) => after.groups,
    [{ id: 'crew', name: 'Crew', pickups: ['call', 'desk-feed'] }],
  ],
  [
    { edit: 'acceptFinding', finding: 'doubled:game:live', facts: 'It comes twice.', note: 'an effect' },
    'say that a finding is meant',
    (after) => after.accepted,
    [{ finding: 'doubled:game:live', facts: 'It comes twice.', note: 'an effect' }],
  ],
  [
    {
      edit: 'batch',
      label: 'tidy up',
      edits: [
        { edit: 'removeDevice', id: 'loft.cable' },
        { edit: 'renameSetup', name: 'Tidy' },
      ],
    },
    'tidy up',
    (after) => [after.name, after.devices.length],
    ['Tidy', setup.devices.length - 1],
  ],
];

describe('every edit', () => {
  test.each(EDITS)('%j', (edit, words, look, expected) => {
    const untouched = JSON.stringify(setup);
    expect(EditSchema.parse(JSON.parse(JSON.stringify(edit)))).toEqual(edit);
    const after = parseSetup(applyEdit(setup, edit));
    expect(look(after)).toEqual(expected);
    expect(describeEdit(edit, edit.edit.startsWith('remove') ? setup : after)).toBe(words);
    expect(JSON.stringify(setup)).toBe(untouched);
    const change = JSON.parse(JSON.stringify(changeBetween(setup, after)));
    expect(isEmptyChange(change)).toBe(false);
    expect(replayChange(setup, change)).toEqual(after);
    expect(replayChange(after, reverseChange(change))).toEqual(setup);
  });

  test('is tried above: none of the wiring is left out', () => {
    const tried = new Set(EDITS.map(([{ edit }]) => edit as string));
    const untried = wiringEdits.map((schema) => schema.shape.edit.value).filter((name) => !tried.has(name));
    expect(untried).toEqual(['updateGroup', 'removeMachine', 'removeGroup']);
  });

  test('of a group changes it, and takes it out of its scenes with it', () => {
    const grouped = applyEdit(setup, {
      edit: 'addGroup',
      id: 'crew',
      group: { name: 'Crew', pickups: ['call'] },
    });
    const used = applyEdit(grouped, { edit: 'updateScene', id: 'race', values: { groups: ['crew'] } });
    const changed = applyEdit(used, { edit: 'updateGroup', id: 'crew', values: { name: 'Friends' } });
    expect(changed.groups?.[0].name).toBe('Friends');
    const gone = applyEdit(changed, { edit: 'removeGroup', id: 'crew' });
    expect(gone.groups).toEqual([]);
    expect(find(gone.scenes, 'scene', 'race').groups).toEqual([]);
  });

  test('of a machine that holds nothing takes it away', () => {
    const added = applyEdit(setup, { edit: 'addMachine', machine: { name: 'Towpath', kind: 'console' } });
    expect(applyEdit(added, { edit: 'removeMachine', id: 'towpath' })).toEqual(setup);
  });

  test('that says undefined things is refused by the schema', () => {
    for (const wrong of [
      { edit: 'removeEverything' },
      { edit: 'setSend', pickup: 'call', to: 'live-mix', gainDb: 1e9 },
      { edit: 'updatePickup', id: 'call', values: { delayMs: -1 } },
      { edit: 'updateSource', id: 'game', values: {}, clear: ['name'] },
      { edit: 'addDevice', device: { name: '', machine: 'loft', direction: 'out', kind: 'virtual' } },
      { edit: 'batch', label: 'nothing', edits: [] },
    ])
      expect(EditSchema.safeParse(wrong).success).toBe(false);
  });
});

describe('lists', () => {
  const list = [{ id: 'a' }, { id: 'b' }, { id: 'c' }];
  const ids = (some: { id: string }[]) => some.map(({ id }) => id).join('');

  test('things are put in, moved, replaced and taken away without a change of the old list', () => {
    expect(ids(inserted(list, { id: 'x' }, 1))).toBe('axbc');
    expect(ids(inserted(list, { id: 'x' }))).toBe('abcx');
    expect(ids(moved(list, 'letter', 'c', 0))).toBe('cab');
    expect(ids(replaced(list, ({ id }) => id === 'b', { id: 'y' }))).toBe('ayc');
    expect(ids(replaced(list, ({ id }) => id === 'q', { id: 'y' }))).toBe('abcy');
    expect(ids(replaced(list, ({ id }) => id === 'b', null))).toBe('ac');
    expect(ids(list)).toBe('abc');
  });

  test('values are set and optional ones cleared in one thing; the others keep their identity', () => {
    const things: { id: string; size?: number; name?: string }[] = [
      { id: 'a', size: 1, name: 'A' },
      { id: 'b' },
    ];
    const next = patched(things, 'thing', 'a', { size: 2 }, ['name']);
    expect(next[0]).toEqual({ id: 'a', size: 2 });
    expect(next[1]).toBe(things[1]);
    expect(() => patched(things, 'thing', 'z', {})).toThrow(/there is no thing "z" any more/);
  });
});

describe('words', () => {
  test('names are listed as one would say them', () => {
    expect(listed([])).toBe('');
    expect(listed(['a'])).toBe('a');
    expect(listed(['a', 'b'])).toBe('a and b');
    expect(listed(['a', 'b', 'c'])).toBe('a, b and c');
    expect(listed(['a', 'b', 'c', 'd'], 3)).toBe('a, b and 2 more');
    expect(listed(['a', 'b', 'c'], 3)).toBe('a, b and c');
  });

  test('a gain has a sign and one figure behind the point; what rounds to nothing has none', () => {
    expect([-12, 3, 0, -0.04, 0.06].map(gainText)).toEqual(['−12.0', '+3.0', '0.0', '0.0', '+0.1']);
  });
});
