import { mixMinus } from '../../../core/repair/mixMinus.ts';
import { Button, NameField } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { useSetup } from '../../setupContext.tsx';
import { Choice, Head, Part } from './parts.tsx';

/** Who hears which devices: headphones, loudspeakers, and the friends through their chat's microphone. */
export function HearsTable() {
  const { setup, actions } = useSetup();
  const notify = useNotify();
  const listening = setup.destinations.filter(({ kind }) => kind !== 'live' && kind !== 'vod');
  const machineOf = (id: string) => setup.machines.find((machine) => machine.id === id)?.name ?? id;
  const devices = setup.devices.map(({ id, name, machine }) => ({
    id,
    name: `${machineOf(machine)} · ${name}`,
  }));
  return (
    <Part id="hears" title="Who hears what">
      <div className="overflow-x-auto">
        <table className="w-full border-collapse" aria-label="Who hears what">
          <Head titles={['Who', 'Hears', '']} />
          <tbody>
            {listening.map((one) => {
              const hears = one.hears ?? [];
              const set = (next: string[]) =>
                actions.edit({ edit: 'updateDestination', id: one.id, values: { hears: next } });
              return (
                <tr key={one.id} className="border-t border-rule align-baseline">
                  <td className="py-1 pr-3">
                    <NameField
                      value={one.name}
                      label={`Name of ${one.name}`}
                      onChange={(name) =>
                        actions.edit({ edit: 'updateDestination', id: one.id, values: { name } })
                      }
                      className="w-44"
                    />
                  </td>
                  <td className="py-1 pr-3">
                    <span className="flex flex-wrap items-center gap-2 text-sm">
                      {hears.map((id) => (
                        <button
                          key={id}
                          type="button"
                          className="border border-rule bg-sheet px-2 py-0.5 hover:border-clay hover:line-through"
                          title="Take away"
                          aria-label={`${one.name} no longer hear ${devices.find((device) => device.id === id)?.name}`}
                          onClick={() => set(hears.filter((other) => other !== id))}
                        >
                          {devices.find((device) => device.id === id)?.name ?? id}
                        </button>
                      ))}
                      <Choice
                        label={`Let ${one.name} hear`}
                        value=""
                        none={one.kind === 'friends' ? 'the chat takes …' : 'hear …'}
                        options={devices.filter(({ id }) => !hears.includes(id))}
                        onChange={(id) => id && set([...hears, id])}
                      />
                    </span>
                  </td>
                  <td className="py-1 text-right">
                    {one.kind === 'friends' && (
                      <Button
                        title="Everything that they are sent but their own voices"
                        onClick={() => {
                          try {
                            actions.edit(mixMinus(setup, one.id));
                          } catch (error) {
                            notify('trouble', (error as Error).message);
                          }
                        }}
                      >
                        Make it a mix-minus
                      </Button>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </Part>
  );
}
