import { describe, expect, test } from '@jest/globals';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import type { Edit } from '../setup/edits.ts';
import { handworkOf } from './handwork.ts';

const setup = twoMachinesMadeRight();

describe('what is to be done by hand', () => {
  test.each<[Edit, string[]]>([
    [
      { edit: 'updateSource', id: 'game', values: { into: 'default' } },
      ['In Lock & Paddle, choose the default output.'],
    ],
    [
      { edit: 'updateSource', id: 'reedbox', values: { into: 'loft.cable', volumePercent: 100 } },
      ['In Reedbox, choose “Spare cable” as the output.', 'In Reedbox, set the volume to 100 %.'],
    ],
    [{ edit: 'updateSource', id: 'reedbox', values: { levelDb: -3, name: 'Reeds' } }, []],
    [
      {
        edit: 'addDevice',
        device: { name: 'Bells', machine: 'loft', direction: 'out', kind: 'virtual' },
      },
      ['On Loft, add a virtual device “Bells”.'],
    ],
    [
      {
        edit: 'addDevice',
        device: { name: 'Jack', machine: 'sluicebox', direction: 'in', kind: 'physical' },
      },
      ['On Sluicebox, add a device “Jack”.'],
    ],
    [
      {
        edit: 'addLink',
        link: { name: 'Long cable', from: 'boathouse.call', to: 'loft.line', kind: 'analogue', latencyMs: 0 },
      },
      ['Connect Call to Line input (Long cable).'],
    ],
    [
      { edit: 'updateLink', id: 'minnow-line', values: { isolated: true } },
      ['Put an isolator into the line “Minnow’s line”.'],
    ],
    [
      { edit: 'updateLink', id: 'hdmi', values: { converted: true } },
      ['Let the far end of “HDMI cable” follow the sender’s clock, or convert.'],
    ],
    [
      {
        edit: 'addMix',
        mix: { name: 'Side', machine: 'loft', inputs: [{ from: 'loft.records', gainDb: 0 }], into: [] },
      },
      ['On Loft, make a mix “Side” of Records.'],
    ],
    [
      { edit: 'updateMix', id: 'sluicebox.ears', values: { into: [] } },
      ['Let the mix “Headphone mix” play into nothing.'],
    ],
    [{ edit: 'removeMix', id: 'sluicebox.ears' }, ['Remove the mix “Headphone mix”.']],
    [
      { edit: 'setMixInput', mix: 'sluicebox.ears', from: 'sluicebox.game', values: { muted: true } },
      ['Mute Game in the mix “Headphone mix”.'],
    ],
    [
      { edit: 'setMixInput', mix: 'sluicebox.ears', from: 'sluicebox.mic', values: { muted: false } },
      ['Open Microphone in the mix “Headphone mix”.'],
    ],
    [
      { edit: 'setMixInput', mix: 'sluicebox.ears', from: 'sluicebox.game', values: { gainDb: -9 } },
      ['Set Game to −9.0 dB in the mix “Headphone mix”.'],
    ],
    [
      { edit: 'setMixInput', mix: 'sluicebox.ears', from: 'loft.desk', values: { gainDb: -9 } },
      ['Open Desk feed in the mix “Headphone mix”, at −9.0 dB.'],
    ],
    [
      { edit: 'updatePickup', id: 'call', values: { takes: 'loft.desk' } },
      ['In the recorder, let Call take Desk feed.'],
    ],
    [
      { edit: 'setMixInput', mix: 'sluicebox.ears', from: 'sluicebox.game', values: null },
      ['Take Game out of the mix “Headphone mix”.'],
    ],
    [
      { edit: 'addPickup', pickup: { takes: 'loft.main', gainDb: 0 } },
      ['In the recorder, add a pickup of Desktop.'],
    ],
    [{ edit: 'removePickup', id: 'call' }, ['In the recorder, remove Call.']],
    [
      { edit: 'updatePickup', id: 'call', values: { scenes: ['race'] } },
      ['In the recorder, let Call sound in Race.'],
    ],
    [
      { edit: 'updatePickup', id: 'call', values: {}, clear: ['scenes'] },
      ['In the recorder, let Call sound in every scene.'],
    ],
    [
      { edit: 'updateMachine', id: 'loft', values: { defaultOutput: 'loft.cable' } },
      ['On Loft, make “Spare cable” the default output.'],
    ],
    [
      { edit: 'updateDestination', id: 'friends', values: { hears: ['loft.desk'] } },
      ['In the chat app, choose Desk feed as the microphone.'],
    ],
    [
      { edit: 'updateDestination', id: 'headphones', values: { kind: 'headphones' } },
      ['Wear headphones in place of Own headphones.'],
    ],
    [
      { edit: 'setRecorder', values: { monitorDevice: 'loft.main' } },
      ['In the recorder, choose “Desktop” as the device to play back on.'],
    ],
    [{ edit: 'setSend', pickup: 'call', to: 'live-mix', gainDb: null }, []],
    [{ edit: 'setWish', source: 'game', destination: 'live', gainDb: null }, []],
    [{ edit: 'renameSetup', name: 'Friday' }, []],
  ])('%j', (edit, steps) => {
    expect(handworkOf(setup, edit)).toEqual(steps);
  });

  test('of several edits is each step once, with the names that the edits themselves bring', () => {
    const edit: Edit = {
      edit: 'batch',
      label: 'separate',
      edits: [
        {
          edit: 'addDevice',
          id: 'loft.bells',
          device: { name: 'Bells', machine: 'loft', direction: 'out', kind: 'virtual' },
        },
        { edit: 'updateSource', id: 'bellbuoy', values: { into: 'loft.bells' } },
        { edit: 'addPickup', pickup: { takes: 'loft.bells', gainDb: 0 } },
        { edit: 'setSend', pickup: 'bells', to: 'live-mix', gainDb: null },
        { edit: 'updateSource', id: 'bellbuoy', values: { into: 'loft.bells' } },
      ],
    };
    expect(handworkOf(setup, edit)).toEqual([
      'On Loft, add a virtual device “Bells”.',
      'In Bellbuoy, choose “Bells” as the output.',
      'In the recorder, add a pickup of Bells.',
    ]);
  });
});
