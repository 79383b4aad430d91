import { clsx } from 'clsx';
import { DEVICE_EFFECTS } from '../../../core/processors/deviceEffects.ts';
import type { Neighbours } from '../../../core/reach/neighbours.ts';
import { nameOf } from '../../../core/setup/edits.ts';
import type { Device } from '../../../core/setup/wiring.ts';
import { listed } from '../../../core/words/figures.ts';
import { DbField, NameField, RemoveButton } from '../../parts/controls.tsx';
import { FigureField } from '../../parts/FigureField.tsx';
import { useSetup } from '../../setupContext.tsx';
import { Choice } from './parts.tsx';
import { useLine, useViewing } from './viewing.tsx';

/** As many names are said of who would notice. */
const MOST_NAMED = 3;

/** One device: what it is, what arrives and where that goes on to, and who would notice if it went. */
export function DeviceRow({
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

/** What a device does to the sound by itself, to tick: the same again in a source's processing would be too much. */
function Effects({ device }: { device: Device }) {
  const { setup, actions } = useSetup();
  const { id, name, does = [], follows, channelsOf } = device;
  const said = [
    ...does,
    ...(follows ? [`clock of ${nameOf(setup, follows)}`] : []),
    ...(channelsOf ? [`further channels of ${nameOf(setup, channelsOf)}`] : []),
  ];
  return (
    <details className="inline">
      <summary
        className="ml-1 inline cursor-pointer text-xs text-water underline decoration-dotted"
        aria-label={`${said.length > 0 ? said.join(', ') : 'more'}: what ${name} does by itself, its clock and its channels`}
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
        <FurtherChannelsOf device={device} />
      </span>
    </details>
  );
}

/** The clock of a device: one of its own, and the device that it is driven together with, which leads. */
function ClockFields({ device }: { device: Device }) {
  const { setup, actions } = useSetup();
  const { id, name, machine, clockPpm = 0 } = device;
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
      <OtherDevice
        device={device}
        field="follows"
        label={`The device that leads the clock of ${name}`}
        options={leaders}
      >
        driven together with
      </OtherDevice>
    </>
  );
}

/** Whether a device lists further channels of another one, which a pickup may then take with it. */
function FurtherChannelsOf({ device }: { device: Device }) {
  const { setup } = useSetup();
  const { id, name, machine, direction } = device;
  const wholes = setup.devices.filter(
    (one) => one.id !== id && one.machine === machine && one.direction === direction && !one.channelsOf,
  );
  return (
    <OtherDevice
      device={device}
      field="channelsOf"
      label={`The device whose further channels ${name} is`}
      options={wholes}
    >
      further channels of
    </OtherDevice>
  );
}

/** Another device of the same machine that a device refers to, or none. */
function OtherDevice({
  device: { id, ...device },
  field,
  label,
  options,
  children,
}: {
  device: Device;
  field: 'follows' | 'channelsOf';
  label: string;
  options: Device[];
  children: string;
}) {
  const { actions } = useSetup();
  return (
    <span className="block text-xs text-ink">
      {children}{' '}
      <Choice
        label={label}
        value={device[field] ?? ''}
        none="none"
        options={options}
        className="w-28 py-0 text-xs"
        onChange={(other) =>
          actions.edit({
            edit: 'updateDevice',
            id,
            values: other ? { [field]: other } : {},
            clear: other ? undefined : [field],
          })
        }
      />
    </span>
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
export function deviceWords({ name, kind, direction }: Device, near?: Neighbours): string[] {
  return [
    name,
    kind,
    direction === 'in' ? 'input' : 'output',
    ...[...(near?.from ?? []), ...(near?.to ?? [])].map(({ place }) => place),
  ];
}
