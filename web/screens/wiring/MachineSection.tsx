import { clsx } from 'clsx';
import { ChevronDown, ChevronRight, Plus } from 'lucide-react';
import { useState } from 'react';
import { DEVICE_EFFECTS } from '../../../core/processors/deviceEffects.ts';
import type { Neighbours } from '../../../core/reach/neighbours.ts';
import type { Reach } from '../../../core/reach/reach.ts';
import { nameOf } from '../../../core/setup/edits.ts';
import type { Device, Machine } from '../../../core/setup/wiring.ts';
import { listed } from '../../../core/words/figures.ts';
import { Button, DbField, NameField, RemoveButton } from '../../parts/controls.tsx';
import { FigureField } from '../../parts/FigureField.tsx';
import { useSetup } from '../../setupContext.tsx';
import { MixCard, mixWords } from './MixCard.tsx';
import { Choice, Head, NumberField, Part } from './parts.tsx';
import { RemoveDevice } from './RemoveDevice.tsx';
import { isFound, useLine, useViewing } from './viewing.tsx';

/** As many names are said of who would notice. */
const MOST_NAMED = 3;
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

/** What a device does to the sound by itself, to tick: the same again in a source's processing would be too much. */
function Effects({ device }: { device: Device }) {
  const { setup, actions } = useSetup();
  const { id, name, does = [], follows } = device;
  const said = [...does, ...(follows ? [`clock of ${nameOf(setup, follows)}`] : [])];
  return (
    <details className="inline">
      <summary
        className="ml-1 inline cursor-pointer text-xs text-water underline decoration-dotted"
        aria-label={`${said.length > 0 ? said.join(', ') : 'more'}: what ${name} does by itself, and its clock`}
      >
        {said.length > 0 ? said.join(', ') : 'more'}
      </summary>
      <span className="block py-1">
        {DEVICE_EFFECTS.map((effect) => (
          <label key={effect} className="flex items-center gap-1.5 text-xs text-ink">
            <input
              type="checkbox"
              checked={does.includes(effect)}
              onChange={(event) =>
                actions.edit({
                  edit: 'updateDevice',
                  id,
                  values: {
                    does: DEVICE_EFFECTS.filter((one) =>
                      one === effect ? event.target.checked : does.includes(one),
                    ),
                  },
                })
              }
            />
            {effect}
          </label>
        ))}
        <ClockFields device={device} />
      </span>
    </details>
  );
}

/** The clock of a device: one of its own, and the device that it is driven together with, which leads. */
function ClockFields({ device }: { device: Device }) {
  const { setup, actions } = useSetup();
  const { id, name, machine, clockPpm = 0, follows } = device;
  const leaders = setup.devices.filter((one) => one.id !== id && one.machine === machine && !one.follows);
  return (
    <>
      <span className="mt-1 block text-xs text-ink">
        own clock{' '}
        <FigureField
          value={clockPpm}
          label={`How fast the own clock of ${name} runs`}
          unit="ppm"
          min={-500}
          max={500}
          className="w-14 py-0"
          onChange={(ppm) =>
            actions.edit({
              edit: 'updateDevice',
              id,
              values: ppm ? { clockPpm: ppm } : {},
              clear: ppm ? undefined : ['clockPpm'],
            })
          }
        />
      </span>
      <span className="block text-xs text-ink">
        driven together with{' '}
        <Choice
          label={`The device that leads the clock of ${name}`}
          value={follows ?? ''}
          none="none"
          options={leaders}
          className="w-28 py-0 text-xs"
          onChange={(leader) =>
            actions.edit({
              edit: 'updateDevice',
              id,
              values: leader ? { follows: leader } : {},
              clear: leader ? undefined : ['follows'],
            })
          }
        />
      </span>
    </>
  );
}

/** Who would notice if a device went: the destinations, and on hover what each would lose. */
function WouldNotice({ device }: { device: string }) {
  const { setup } = useSetup();
  const { losses, reach } = useViewing();
  const mine = losses.get(device) ?? [];
  if (mine.length === 0) return <span className="text-soft">nobody would notice</span>;
  const name = (id: string) => reach.destinations.find((one) => one.id === id)?.name ?? id;
  const said = mine.map(
    ({ destination, sources }) =>
      `${name(destination)}: no ${listed(sources.map((id) => setup.sources.find((one) => one.id === id)?.name ?? id))}`,
  );
  const names = mine.map(({ destination }) => name(destination));
  return (
    <span title={said.join('\n')}>
      {names.slice(0, MOST_NAMED).join(', ')}
      {names.length > MOST_NAMED && ` and ${names.length - MOST_NAMED} more`}
    </span>
  );
}

/** The words by which a device is found: its own, and what comes and goes. */
function deviceWords({ name, kind, direction }: Device, near?: Neighbours): string[] {
  return [
    name,
    kind,
    direction === 'in' ? 'input' : 'output',
    ...[...(near?.from ?? []), ...(near?.to ?? [])].map(({ place }) => place),
  ];
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

function DeviceRow({
  device,
  isDefault,
  near,
  onRemove,
}: {
  device: Device;
  isDefault: boolean;
  near: Neighbours;
  onRemove: () => void;
}) {
  const { actions } = useSetup();
  const isLost = near.from.length > 0 && near.to.length === 0;
  const { isShown, className, ...passing } = useLine([device.id], deviceWords(device, near));
  if (!isShown) return null;
  return (
    <tr
      className={clsx('border-t border-rule align-baseline', className)}
      data-device={device.id}
      {...passing}
    >
      <td className="w-52 py-1 pr-3">
        <NameField
          value={device.name}
          label={`Name of the device ${device.name}`}
          onChange={(name) => actions.edit({ edit: 'updateDevice', id: device.id, values: { name } })}
          className="w-48"
        />
      </td>
      <td className="w-32 py-1 pr-3 text-sm text-soft">
        {device.kind === 'virtual' ? 'virtual' : device.direction === 'in' ? 'input' : 'output'}
        {isDefault && <strong className="text-ink"> · default</strong>}
        <Effects device={device} />
      </td>
      <td className="w-28 py-1 pr-3">
        <DbField
          value={device.volumeDb ?? 0}
          label={`Volume of the device ${device.name}`}
          onChange={(volumeDb) => actions.edit({ edit: 'updateDevice', id: device.id, values: { volumeDb } })}
        />
      </td>
      <td className="py-1 pr-3 text-sm">
        {near.from.length === 0 ? (
          <span className="text-soft">nothing</span>
        ) : (
          near.from.map(({ place }) => place).join(', ')
        )}
      </td>
      <td className="py-1 pr-3 text-sm">
        {isLost ? (
          <strong className="text-clay">nobody hears it</strong>
        ) : near.to.length === 0 ? (
          <span className="text-soft">nowhere</span>
        ) : (
          near.to.map(({ place }) => place).join(', ')
        )}
      </td>
      <td className="w-40 py-1 pr-3 text-sm">
        <WouldNotice device={device.id} />
      </td>
      <td className="w-10 py-1 text-right">
        <RemoveButton label={`Remove the device ${device.name}`} onClick={onRemove} />
      </td>
    </tr>
  );
}
