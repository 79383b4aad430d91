import { useState } from 'react';
import { newId } from '../../../core/setup/ids.ts';
import { MACHINE_KINDS, type Machine } from '../../../core/setup/wiring.ts';
import { Button } from '../../parts/controls.tsx';
import { NameOf } from '../../parts/dialogParts.tsx';
import { Sheet } from '../../parts/Sheet.tsx';
import { useSetup } from '../../setupContext.tsx';
import { Choice } from './parts.tsx';

const KIND_WORDS = { computer: 'computer', desk: 'desk (mixer)', console: 'console or handheld' };

/** Adds a machine, with the devices that such a machine has. */
export function AddMachine({ onClose }: { onClose: () => void }) {
  const { setup, actions } = useSetup();
  const [name, setName] = useState('');
  const [kind, setKind] = useState<Machine['kind']>('computer');
  const add = () => {
    const id = newId(setup, name);
    const device = (word: string, direction: 'in' | 'out') => ({
      edit: 'addDevice' as const,
      id: `${id}.${word.toLowerCase()}`,
      device: { name: word, machine: id, direction, kind: 'physical' as const },
    });
    const isFirst = setup.recorder.machine === undefined && kind === 'computer';
    actions.edit({
      edit: 'batch',
      label: `add the machine ${name}`.slice(0, 120),
      edits: [
        { edit: 'addMachine', id, machine: { name, kind } },
        device(kind === 'computer' ? 'Headset' : 'Output', 'out'),
        ...(kind === 'console' ? [] : [device('Input', 'in')]),
        ...(kind === 'computer'
          ? [{ edit: 'updateMachine' as const, id, values: { defaultOutput: `${id}.headset` } }]
          : []),
        ...(isFirst ? [{ edit: 'setRecorder' as const, values: { machine: id } }] : []),
      ],
    });
    onClose();
  };
  return (
    <Sheet title="Add a machine" onClose={onClose}>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim()) add();
        }}
      >
        <NameOf value={name} onChange={setName} />
        <div>
          <span className="text-sm text-soft">Kind</span>
          <Choice
            label="Kind of the machine"
            value={kind}
            options={MACHINE_KINDS.map((one) => ({ id: one, name: KIND_WORDS[one] }))}
            className="block w-full"
            onChange={(one) => setKind(one as Machine['kind'])}
          />
        </div>
        <Button type="submit" weight="main" disabled={name.trim() === ''}>
          Add the machine
        </Button>
      </form>
    </Sheet>
  );
}
