import { isOverruled } from '../../../core/reach/graph.ts';
import { DEFAULT_DEVICE, isPlugged, type Source } from '../../../core/setup/schema.ts';
import type { Device, Machine } from '../../../core/setup/wiring.ts';
import { fieldClass } from '../../parts/controls.tsx';
import { FigureField } from '../../parts/FigureField.tsx';
import { useSetup } from '../../setupContext.tsx';

/** Where a source is and what it plays into, and for an app its own volume. */
export function PlaceField({ source }: { source: Source }) {
  const { setup, actions } = useSetup();
  const machine = setup.machines.find((one) => one.id === source.machine);
  const devices = setup.devices.filter((one) => one.machine === machine?.id);
  const main = devices.find((one) => one.id === machine?.defaultOutput);
  const plugged = isPlugged(source.kind);
  const change = (value: string) => {
    if (value.startsWith('machine:'))
      actions.edit({
        edit: 'updateSource',
        id: source.id,
        values: { machine: value.slice(8) },
        clear: ['into', 'machineInto'],
      });
    else if (value === 'given')
      actions.edit({ edit: 'updateSource', id: source.id, values: { machineInto: source.into } });
    else if (value === '') actions.edit({ edit: 'updateSource', id: source.id, values: {}, clear: ['into'] });
    else actions.edit({ edit: 'updateSource', id: source.id, values: { into: value } });
  };
  return (
    <span className="flex flex-col">
      <select
        aria-label={`${source.name} plays into`}
        className={`${fieldClass} w-40`}
        value={machine ? (source.into ?? '') : 'none'}
        onChange={(event) => change(event.target.value)}
      >
        {!machine && <option value="none">on no machine yet</option>}
        {machine && <option value="">{plugged ? 'plugged into nothing' : 'no device of its own'}</option>}
        {main && !plugged && <option value={DEFAULT_DEVICE}>the default, now “{main.name}”</option>}
        {devices.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
        {machine && canBeGiven(source, devices) && (
          <option value="given">… and what {machine.name} gives it</option>
        )}
        {setup.machines
          .filter((one) => one !== machine)
          .map((one) => (
            <option key={one.id} value={`machine:${one.id}`}>
              → move to {one.name}
            </option>
          ))}
      </select>
      {!plugged && machine && <GivenField source={source} machine={machine} />}
      {!plugged && machine && (
        <span className="flex items-center gap-1 text-xs text-soft">
          own volume
          <FigureField
            value={source.volumePercent ?? 100}
            label={`Own volume of ${source.name}`}
            unit="%"
            min={1}
            max={100}
            className="w-12 py-0"
            onChange={(percent) =>
              actions.edit({
                edit: 'updateSource',
                id: source.id,
                values: percent === null || percent === 100 ? {} : { volumePercent: percent },
                clear: percent === 100 ? ['volumePercent'] : undefined,
              })
            }
          />
          <label className="ml-1 flex items-center gap-1" title="It plays, and is silent all the same">
            <input
              type="checkbox"
              aria-label={`${source.name} is stuck: it plays, and is silent`}
              checked={source.stuck ?? false}
              onChange={({ target }) =>
                actions.edit({
                  edit: 'updateSource',
                  id: source.id,
                  values: target.checked ? { stuck: true } : {},
                  clear: target.checked ? undefined : ['stuck'],
                })
              }
            />
            stuck
          </label>
        </span>
      )}
    </span>
  );
}

/** Tells whether what its machine gives to an app can be written down beside the output that the app names. */
function canBeGiven({ kind, into, machineInto }: Source, devices: Device[]): boolean {
  const isOutput = devices.some(({ id, direction }) => id === into && direction === 'out');
  return !isPlugged(kind) && machineInto === undefined && isOutput;
}

/**
 * What its machine's settings give to an app, and whether that counts: shown where the app leaves the choice to the machine, or both are
 * set.
 */
function GivenField({ source, machine }: { source: Source; machine: Machine }) {
  const { setup, actions } = useSetup();
  const { machineInto, into } = source;
  if (into !== DEFAULT_DEVICE && machineInto === undefined) return null;
  const outputs = setup.devices.filter((one) => one.machine === machine.id && one.direction === 'out');
  return (
    <span className="flex flex-col text-xs text-soft">
      <span className="flex items-center gap-1">
        {machine.name} gives it
        <select
          aria-label={`What ${machine.name} gives to ${source.name}`}
          className={`${fieldClass} w-24 py-0 text-xs`}
          value={machineInto ?? ''}
          onChange={(event) =>
            actions.edit({
              edit: 'updateSource',
              id: source.id,
              values: event.target.value ? { machineInto: event.target.value } : {},
              clear: event.target.value ? undefined : ['machineInto'],
            })
          }
        >
          <option value="">the default</option>
          {outputs.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
      </span>
      {isOverruled(source) && <span className="text-reed">does not count: the app names its own</span>}
    </span>
  );
}
