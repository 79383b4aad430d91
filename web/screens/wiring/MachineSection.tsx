import { ChevronDown, ChevronRight, Plus } from 'lucide-react';
import { useState } from 'react';
import type { Neighbours } from '../../../core/reach/neighbours.ts';
import type { Reach } from '../../../core/reach/reach.ts';
import type { Device, Machine } from '../../../core/setup/wiring.ts';
import { Button, NameField, RemoveButton } from '../../parts/controls.tsx';
import { useSetup } from '../../setupContext.tsx';
import { DeviceRow, deviceWords } from './DeviceRow.tsx';
import { MixCard, mixWords } from './MixCard.tsx';
import { Choice, Head, NumberField, Part } from './parts.tsx';
import { RemoveDevice } from './RemoveDevice.tsx';
import { isFound, useViewing } from './viewing.tsx';

const KIND_WORDS = { computer: 'computer', desk: 'desk', console: 'console or handheld' };

interface MachineSectionProps {
  machine: Machine;
  reach: Reach;
  neighbours: Map<string, Neighbours>;
}

/** One machine: its devices with what arrives and what departs, and the mixes that are made on it. */
export function MachineSection({ machine, reach, neighbours }: MachineSectionProps) {
  const { setup, actions } = useSetup();
  const [removing, setRemoving] = useState<Device | null>(null);
  const devices = setup.devices.filter((one) => one.machine === machine.id);
  const mixes = setup.mixes.filter((one) => one.machine === machine.id);
  const outputs = devices.filter((one) => one.direction === 'out');
  const { find, folded, fold } = useViewing();
  const hasFound =
    isFound(find, [machine.name]) ||
    devices.some((one) => isFound(find, deviceWords(one, neighbours.get(one.id)))) ||
    mixes.some((one) => isFound(find, mixWords(setup, one)));
  const isFolded = folded.has(machine.id) && find === '';
  const addDevice = (direction: Device['direction'], kind: Device['kind']) =>
    actions.edit({
      edit: 'addDevice',
      device: {
        name: `${kind === 'virtual' ? 'Virtual device' : direction === 'out' ? 'Output' : 'Input'} ${devices.length + 1}`,
        machine: machine.id,
        direction,
        kind,
      },
    });
  if (!hasFound) return null;
  return (
    <Part
      id={machine.id}
      title={
        <span className="flex items-center">
          <Button
            weight="quiet"
            aria-expanded={!isFolded}
            aria-label={`${isFolded ? 'Open' : 'Fold'} ${machine.name}`}
            onClick={() => fold(machine.id, !isFolded)}
          >
            {isFolded ? <ChevronRight size={16} /> : <ChevronDown size={16} />}
          </Button>
          <NameField
            value={machine.name}
            label="Name of the machine"
            onChange={(name) => actions.edit({ edit: 'updateMachine', id: machine.id, values: { name } })}
            className="-ml-1 w-40"
          />
        </span>
      }
      aside={
        <>
          <span className="text-sm text-soft">
            {KIND_WORDS[machine.kind]} in the room{' '}
            <NameField
              value={machine.room ?? ''}
              label={`Room of ${machine.name}`}
              placeholder="any"
              mayBeEmpty
              onChange={(room) =>
                actions.edit({
                  edit: 'updateMachine',
                  id: machine.id,
                  values: room ? { room } : {},
                  clear: room ? undefined : ['room'],
                })
              }
              className="w-20"
            />
          </span>
          {machine.kind === 'computer' && (
            <span className="text-sm text-soft">
              default output{' '}
              <Choice
                label={`Default output of ${machine.name}`}
                value={machine.defaultOutput ?? ''}
                options={outputs}
                none="none"
                onChange={(id) =>
                  actions.edit({
                    edit: 'updateMachine',
                    id: machine.id,
                    values: id ? { defaultOutput: id } : {},
                    clear: id ? undefined : ['defaultOutput'],
                  })
                }
              />
            </span>
          )}
          {machine.kind === 'desk' && (
            <span className="text-sm text-soft">
              hands over at most{' '}
              <NumberField
                value={machine.handovers ?? 2}
                label={`Mixes that ${machine.name} can hand over`}
                unit="mixes"
                max={16}
                onChange={(handovers) =>
                  actions.edit({
                    edit: 'updateMachine',
                    id: machine.id,
                    values: { handovers: Math.max(1, Math.round(handovers)) },
                  })
                }
              />
            </span>
          )}
          <RemoveButton
            label={`Remove ${machine.name}`}
            onClick={() => actions.edit({ edit: 'removeMachine', id: machine.id })}
          />
        </>
      }
    >
      {isFolded && <p className="py-1 text-sm text-soft">{foldedText(devices, mixes.length, neighbours)}</p>}
      {!isFolded && (
        <>
          <div className="overflow-x-auto">
            <table className="w-full border-collapse" aria-label={`Devices of ${machine.name}`}>
              <Head titles={['Device', '', 'Volume', 'Arrives here', 'Goes on to', 'If it went', '']} />
              <tbody>
                {devices.map((device) => (
                  <DeviceRow
                    key={device.id}
                    device={device}
                    isDefault={machine.defaultOutput === device.id}
                    near={neighbours.get(device.id) ?? { from: [], to: [] }}
                    onRemove={() => setRemoving(device)}
                  />
                ))}
              </tbody>
            </table>
          </div>
          <div className="mt-2 flex flex-wrap gap-2">
            {machine.kind === 'computer' && (
              <Button onClick={() => addDevice('out', 'virtual')}>
                <Plus size={14} /> Virtual device
              </Button>
            )}
            <Button onClick={() => addDevice('out', 'physical')}>
              <Plus size={14} /> Output
            </Button>
            <Button onClick={() => addDevice('in', 'physical')}>
              <Plus size={14} /> Input
            </Button>
            <Button
              onClick={() =>
                actions.edit({
                  edit: 'addMix',
                  mix: { name: `Mix ${mixes.length + 1}`, machine: machine.id, inputs: [], into: [] },
                })
              }
            >
              <Plus size={14} /> Mix
            </Button>
          </div>
          {mixes.length > 0 && (
            <div className="mt-3 grid grid-cols-2 gap-3">
              {mixes.map((mix) => (
                <MixCard key={mix.id} mix={mix} reach={reach} />
              ))}
            </div>
          )}
        </>
      )}
      {removing && <RemoveDevice device={removing} onClose={() => setRemoving(null)} />}
    </Part>
  );
}

function foldedText(devices: Device[], mixes: number, neighbours: Map<string, Neighbours>): string {
  const lost = devices.filter(({ id }) => {
    const near = neighbours.get(id);
    return near && near.from.length > 0 && near.to.length === 0;
  }).length;
  return [
    `${devices.length} ${devices.length === 1 ? 'device' : 'devices'}`,
    ...(mixes > 0 ? [`${mixes} ${mixes === 1 ? 'mix' : 'mixes'}`] : []),
    ...(lost > 0 ? [`${lost} that nobody hears`] : []),
  ].join(', ');
}
