import { clsx } from 'clsx';
import { Ear, SlidersHorizontal, X } from 'lucide-react';
import { useState } from 'react';
import { stepsOn, wordFor } from '../../../core/processors/processing.ts';
import type { Reach } from '../../../core/reach/reach.ts';
import { nameOf } from '../../../core/setup/edits.ts';
import type { Setup } from '../../../core/setup/schema.ts';
import type { Mix } from '../../../core/setup/wiring.ts';
import { Button, DbField, NameField, RemoveButton } from '../../parts/controls.tsx';
import { useSetup } from '../../setupContext.tsx';
import { ProcessingSheet } from '../processing/ProcessingSheet.tsx';
import { placesOfAll } from '../processing/places.ts';
import { Choice, Tick } from './parts.tsx';
import { useLine } from './viewing.tsx';

/** The words by which a mix is found: its own, what it takes in, and what it plays into. */
export function mixWords(setup: Setup, { name, inputs, into }: Mix): string[] {
  return [name, ...[...inputs.map(({ from }) => from), ...into].map((id) => nameOf(setup, id))];
}

/** A mix as a list: what it takes in, each with gain and mute, and what it plays into. */
export function MixCard({ mix, reach }: { mix: Mix; reach: Reach }) {
  const { setup, actions } = useSetup();
  const [isProcessing, setProcessing] = useState(false);
  const steps = stepsOn(mix.processing);
  const here = <T extends { id: string; name: string; machine?: string }>(list: T[]) =>
    list.filter((one) => one.machine === mix.machine);
  const taken = new Set(mix.inputs.map(({ from }) => from));
  const addable = [...here(setup.sources), ...here(setup.devices), ...here(setup.mixes)].filter(
    (one) => one.id !== mix.id && !taken.has(one.id) && !mix.into.includes(one.id),
  );
  const outputs = here(setup.devices).filter((one) => one.direction === 'out');
  const worn = setup.destinations.find(({ kind }) => kind === 'headphones')?.hears ?? [];
  const { isShown, className, ...passing } = useLine([mix.id], mixWords(setup, mix));
  const listensOn = (outputs.find(({ id }) => worn.includes(id)) ?? outputs[0])?.id;
  if (!isShown) return null;
  return (
    <article
      className={clsx('border border-rule bg-sheet px-3 py-2', className)}
      aria-label={`Mix ${mix.name}`}
      {...passing}
    >
      <div className="flex items-center justify-between">
        <NameField
          value={mix.name}
          label={`Name of the mix ${mix.name}`}
          onChange={(name) => actions.edit({ edit: 'updateMix', id: mix.id, values: { name } })}
          className="-ml-1 w-56 font-semibold"
        />
        <span className="flex items-center">
          <Button
            weight={mix.listenedOn === undefined ? 'quiet' : 'danger'}
            aria-pressed={mix.listenedOn !== undefined}
            aria-label={`Listen in on ${mix.name}`}
            title={
              mix.listenedOn === undefined
                ? 'Say that you are listening in on this mix: until you stop, it plays there only'
                : `You are listening in on ${nameOf(setup, mix.listenedOn)}, and the mix plays nowhere else. Click when you stop.`
            }
            disabled={mix.listenedOn === undefined && listensOn === undefined}
            onClick={() =>
              actions.edit(
                mix.listenedOn === undefined
                  ? { edit: 'updateMix', id: mix.id, values: { listenedOn: listensOn } }
                  : { edit: 'updateMix', id: mix.id, clear: ['listenedOn'], values: {} },
              )
            }
          >
            <Ear size={15} />
          </Button>
          <Button
            weight="quiet"
            aria-label={`Processing of ${mix.name}`}
            title={
              steps.length > 0
                ? `Goes through: ${steps.map(wordFor).join(', ')}`
                : 'Process everything that it takes in'
            }
            onClick={() => setProcessing(true)}
          >
            <SlidersHorizontal size={15} className={steps.length > 0 ? 'text-water' : ''} />
          </Button>
          <RemoveButton
            label={`Remove the mix ${mix.name}`}
            onClick={() => actions.edit({ edit: 'removeMix', id: mix.id })}
          />
        </span>
      </div>
      {isProcessing && (
        <ProcessingSheet
          title={`Processing of the mix “${mix.name}”`}
          places={placesOfAll(setup, reach, { kind: 'mix', id: mix.id })}
          onClose={() => setProcessing(false)}
        />
      )}
      <div className="overflow-x-auto">
        <table className="w-full border-collapse">
          <tbody>
            {mix.inputs.map(({ from, gainDb, muted = false }) => {
              const name = nameOf(setup, from);
              const set = (values: { gainDb?: number; muted?: boolean } | null) =>
                actions.edit({ edit: 'setMixInput', mix: mix.id, from, values });
              const carried = reach.sourcesAt(from).map((id) => nameOf(setup, id));
              return (
                <tr key={from} className="border-t border-dotted border-rule">
                  <td className={clsx('py-1 pr-2 text-sm', muted && 'text-soft line-through')}>
                    {name}
                    {carried.length > 0 && (
                      <span className="block text-xs text-soft">{carried.join(', ')}</span>
                    )}
                  </td>
                  <td className="py-1 pr-2">
                    <DbField
                      value={gainDb}
                      label={`Gain of ${name} in ${mix.name}`}
                      onChange={(next) => set({ gainDb: next })}
                    />
                  </td>
                  <td className="py-1 pr-1">
                    <Tick
                      checked={muted}
                      label={`Mute ${name} in ${mix.name}`}
                      onChange={(next) => set({ muted: next })}
                    >
                      muted
                    </Tick>
                  </td>
                  <td className="w-8 py-1 text-right">
                    <Button
                      weight="quiet"
                      aria-label={`Take ${name} out of ${mix.name}`}
                      onClick={() => set(null)}
                    >
                      <X size={14} />
                    </Button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      {addable.length > 0 && (
        <Choice
          label={`Take something into ${mix.name}`}
          value=""
          none="take in …"
          options={addable}
          className="mt-1"
          onChange={(from) =>
            from && actions.edit({ edit: 'setMixInput', mix: mix.id, from, values: { gainDb: 0 } })
          }
        />
      )}
      <p className="mt-2 flex flex-wrap items-center gap-x-3 gap-y-1 border-t border-rule pt-1.5 text-sm">
        <span className="text-soft">plays into</span>
        {outputs.map((device) => (
          <Tick
            key={device.id}
            checked={mix.into.includes(device.id)}
            label={`${mix.name} plays into ${device.name}`}
            onChange={(on) =>
              actions.edit({
                edit: 'updateMix',
                id: mix.id,
                values: {
                  into: on ? [...mix.into, device.id] : mix.into.filter((id) => id !== device.id),
                },
              })
            }
          >
            {device.name}
          </Tick>
        ))}
      </p>
    </article>
  );
}
