import { Plus } from 'lucide-react';
import { nameOf } from '../../../core/setup/edits.ts';
import type { Setup } from '../../../core/setup/schema.ts';
import { LINK_KINDS, type Link } from '../../../core/setup/wiring.ts';
import { Button, NameField, RemoveButton } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { useSetup } from '../../setupContext.tsx';
import { Choice, Head, NumberField, Part, Tick } from './parts.tsx';
import { Line } from './viewing.tsx';

const KIND_WORDS: Record<Link['kind'], string> = {
  hdmi: 'HDMI',
  analogue: 'analogue line',
  usb: 'USB feed',
  network: 'network',
};

/** The links between machines, with their latency. */
export function LinkTable() {
  const { setup, actions } = useSetup();
  const notify = useNotify();
  const ends = (direction: 'in' | 'out') =>
    setup.devices
      .filter((one) => one.direction === direction)
      .map(({ id, name, machine }) => ({ id, name: `${machineName(setup, machine)} · ${name}` }));
  const [outs, ins] = [ends('out'), ends('in')];
  const add = () => {
    const free = freeEnds(setup);
    if (!free) {
      notify(
        'trouble',
        'A link needs an output of one machine and an input of another. Add an output and an input first.',
      );
      return;
    }
    actions.edit({
      edit: 'addLink',
      link: { name: `Link ${setup.links.length + 1}`, ...free, kind: 'usb', latencyMs: 5 },
    });
  };
  return (
    <Part
      id="links"
      title="Links between machines"
      aside={
        <Button onClick={add}>
          <Plus size={14} /> Link
        </Button>
      }
    >
      {setup.links.length === 0 ? (
        <p className="py-2 text-soft">None: every machine is on its own.</p>
      ) : (
        <div className="overflow-x-auto">
          <table className="w-full border-collapse" aria-label="Links">
            <Head titles={['Name', 'From', 'To', 'Kind', 'Latency', 'Ends', '']} />
            <tbody>
              {setup.links.map((link) => {
                const change = (values: Partial<Omit<Link, 'id'>>) =>
                  actions.edit({ edit: 'updateLink', id: link.id, values });
                return (
                  <Line
                    key={link.id}
                    places={[link.to]}
                    words={[link.name, nameOf(setup, link.from), nameOf(setup, link.to)]}
                  >
                    <td className="py-1 pr-2">
                      <NameField
                        value={link.name}
                        label={`Name of the link ${link.name}`}
                        onChange={(name) => change({ name })}
                        className="w-40"
                      />
                    </td>
                    <td className="py-1 pr-2">
                      <Choice
                        label={`${link.name} starts at`}
                        value={link.from}
                        options={outs}
                        className="w-44"
                        onChange={(from) => change({ from })}
                      />
                    </td>
                    <td className="py-1 pr-2">
                      <Choice
                        label={`${link.name} ends at`}
                        value={link.to}
                        options={ins}
                        className="w-40"
                        onChange={(to) => change({ to })}
                      />
                    </td>
                    <td className="py-1 pr-2">
                      <Choice
                        label={`Kind of ${link.name}`}
                        value={link.kind}
                        options={LINK_KINDS.map((kind) => ({ id: kind, name: KIND_WORDS[kind] }))}
                        onChange={(kind) => change({ kind: kind as Link['kind'] })}
                      />
                    </td>
                    <td className="py-1 pr-2">
                      <NumberField
                        value={link.latencyMs}
                        label={`Latency of ${link.name}`}
                        unit="ms"
                        max={5000}
                        onChange={(latencyMs) => change({ latencyMs })}
                      />
                    </td>
                    <td className="py-1 pr-2">
                      {link.kind === 'analogue' ? (
                        <Tick
                          checked={link.isolated ?? false}
                          label={`${link.name} is isolated`}
                          onChange={(isolated) => change({ isolated })}
                        >
                          isolated
                        </Tick>
                      ) : (
                        <Tick
                          checked={link.converted ?? true}
                          label={`The far end of ${link.name} follows its clock`}
                          onChange={(converted) => change({ converted })}
                        >
                          clock follows
                        </Tick>
                      )}
                    </td>
                    <td className="py-1 text-right">
                      <RemoveButton
                        label={`Remove the link ${link.name}`}
                        onClick={() => actions.edit({ edit: 'removeLink', id: link.id })}
                      />
                    </td>
                  </Line>
                );
              })}
            </tbody>
          </table>
        </div>
      )}
    </Part>
  );
}

function machineName(setup: Setup, id: string): string {
  return setup.machines.find((machine) => machine.id === id)?.name ?? id;
}

/** An output and an input on two machines, those that no link uses yet first. */
function freeEnds(setup: Setup): { from: string; to: string } | null {
  const used = new Set(setup.links.flatMap(({ from, to }) => [from, to]));
  const order = [...setup.devices].sort((a, b) => Number(used.has(a.id)) - Number(used.has(b.id)));
  for (const from of order.filter((one) => one.direction === 'out')) {
    const to = order.find((one) => one.direction === 'in' && one.machine !== from.machine);
    if (to) return { from: from.id, to: to.id };
  }
  return null;
}
