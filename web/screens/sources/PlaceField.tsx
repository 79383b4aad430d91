import { DEFAULT_DEVICE, isPlugged, type Source } from '../../../core/setup/schema.ts';
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
        clear: ['into'],
      });
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
        {setup.machines
          .filter((one) => one !== machine)
          .map((one) => (
            <option key={one.id} value={`machine:${one.id}`}>
              → move to {one.name}
            </option>
          ))}
      </select>
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
        </span>
      )}
    </span>
  );
}
