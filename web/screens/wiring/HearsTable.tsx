import { mixMinus } from '../../../core/repair/mixMinus.ts';
import { AIR_DB, DEFAULT_DEVICE, type ListedDestination } from '../../../core/setup/schema.ts';
import { Button, DbField, NameField } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { useSetup } from '../../setupContext.tsx';
import { Choice, Head, Part, Tick } from './parts.tsx';
import { Line } from './viewing.tsx';

/** What the empty choice says where nobody hears with their own ears. */
const LET_HEAR: Partial<Record<ListedDestination['kind'], string>> = {
  friends: 'the chat takes …',
  other: 'it is given …',
};

/** Who hears which devices: headphones, loudspeakers, the friends through their chat's microphone, and other outputs. */
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
                <Line
                  key={one.id}
                  places={[one.id]}
                  words={[one.name, ...hears.map((id) => devices.find((device) => device.id === id)?.name)]}
                  className="align-baseline"
                >
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
                        none={LET_HEAR[one.kind] ?? 'hear …'}
                        options={devices.filter(({ id }) => !hears.includes(id))}
                        onChange={(id) => id && set([...hears, id])}
                      />
                    </span>
                    {one.kind === 'friends' && <ChatOutputs hears={hears} />}
                    {one.kind === 'loudspeakers' && <InTheRoom destination={one} />}
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
                </Line>
              );
            })}
          </tbody>
        </table>
      </div>
    </Part>
  );
}

/** The other setting of a chat app: the output that its voices play into, for each app on the machine of its microphone. */
function ChatOutputs({ hears }: { hears: string[] }) {
  const { setup, actions } = useSetup();
  const machines = hears.map((id) => setup.devices.find((device) => device.id === id)?.machine);
  const voices = setup.sources.filter(
    ({ kind, machine }) => kind === 'voice chat' && (machines.length === 0 || machines.includes(machine)),
  );
  const apps = [...new Set(voices.map(({ app, name }) => app ?? name))];
  return apps.map((app) => {
    const mine = voices.filter((voice) => (voice.app ?? voice.name) === app);
    const [{ machine, into }] = mine;
    const outputs = setup.devices.filter((one) => one.machine === machine && one.direction === 'out');
    return (
      <span key={app} className="mt-1 flex flex-wrap items-center gap-2 text-sm text-soft">
        {app} plays {mine.length > 1 ? 'their voices' : 'the voice'} into
        <Choice
          label={`What ${app} plays into`}
          value={into ?? ''}
          none="nothing"
          options={[{ id: DEFAULT_DEVICE, name: 'the default' }, ...outputs]}
          onChange={(id) =>
            actions.edit({
              edit: 'batch',
              label: `change what ${app} plays into`.slice(0, 120),
              edits: mine.map((voice) => ({
                edit: 'updateSource',
                id: voice.id,
                values: id ? { into: id } : {},
                clear: id ? undefined : ['into'],
              })),
            })
          }
        />
      </span>
    );
  });
}

/** Which microphones are in the room of some loudspeakers, and how much of them each hears. */
function InTheRoom({ destination: { id, name } }: { destination: ListedDestination }) {
  const { setup, actions } = useSetup();
  const microphones = setup.sources.filter(({ kind }) => kind === 'microphone');
  if (microphones.length === 0) return null;
  const set = (source: string, gainDb: number | null) =>
    actions.edit({ edit: 'setAir', destination: id, source, gainDb });
  return (
    <ul className="mt-1 space-y-1" aria-label={`Microphones in the room of ${name}`}>
      {microphones.map((microphone) => {
        const air = setup.air?.find((one) => one.destination === id && one.source === microphone.id);
        return (
          <li key={microphone.id} className="flex flex-wrap items-center gap-2 text-sm">
            <Tick
              checked={air !== undefined}
              label={`The microphone of ${microphone.name} is in the room of ${name}`}
              onChange={(isThere) => set(microphone.id, isThere ? AIR_DB : null)}
            >
              the microphone of {microphone.name} is in the same room
            </Tick>
            {air && (
              <DbField
                value={air.gainDb}
                label={`How much of ${name} the microphone of ${microphone.name} hears`}
                onChange={(gainDb) => set(microphone.id, Math.min(0, gainDb))}
              />
            )}
          </li>
        );
      })}
    </ul>
  );
}
