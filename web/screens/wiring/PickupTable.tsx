import { clsx } from 'clsx';
import { Plus, SlidersHorizontal } from 'lucide-react';
import { useState } from 'react';
import { stepsOn, wordFor } from '../../../core/processors/processing.ts';
import { isCalledSo } from '../../../core/reach/graph.ts';
import type { Reach } from '../../../core/reach/reach.ts';
import { pairsOfDevice } from '../../../core/setup/devicePairs.ts';
import { nameOf } from '../../../core/setup/edits.ts';
import { monitoringEdit, monitorOutputs } from '../../../core/setup/monitoring.ts';
import type { Pickup, Setup, Source } from '../../../core/setup/schema.ts';
import { Button, DbField, NameField, RemoveButton } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { useSetup } from '../../setupContext.tsx';
import { ProcessingSheet } from '../processing/ProcessingSheet.tsx';
import { placesOfAll } from '../processing/places.ts';
import { Choice, Head, NumberField, Part, Tick } from './parts.tsx';
import { useLine } from './viewing.tsx';

/** What the recorder takes: devices and single apps, with gain, delay and fold, and the scenes each sounds in. */
export function PickupTable({ reach }: { reach: Reach }) {
  const { setup, actions } = useSetup();
  const notify = useNotify();
  const takable = takableOf(setup);
  const taken = new Set(setup.pickups.map((pickup) => pickup.takes));
  const add = () => {
    const next = takable.find((one) => !taken.has(one.id)) ?? takable[0];
    if (next) actions.edit({ edit: 'addPickup', pickup: { takes: next.id, gainDb: 0 } });
    else notify('trouble', 'There is nothing to pick up yet. Add a device or a source first.');
  };
  return (
    <Part
      id="pickups"
      title="What the recorder takes"
      aside={
        <>
          <span className="text-sm text-soft">
            it runs on{' '}
            <Choice
              label="Machine that the recorder runs on"
              value={setup.recorder.machine ?? ''}
              none="not said"
              options={setup.machines.filter((machine) => machine.kind === 'computer')}
              onChange={(machine) => machine && actions.edit({ edit: 'setRecorder', values: { machine } })}
            />
          </span>
          <PlaysBackOn />
          <Button onClick={add}>
            <Plus size={14} /> Pickup
          </Button>
        </>
      }
    >
      {setup.pickups.length === 0 ? (
        <p className="py-2 text-soft">Nothing yet: no track and no broadcast can carry a sound.</p>
      ) : (
        <div className="overflow-x-auto">
          <table className="w-full border-collapse" aria-label="Pickups">
            <Head
              titles={['Name', 'Takes', 'Carries', 'Gain', 'Delay', '', 'Played back', 'Sounds in', '']}
            />
            <tbody>
              {setup.pickups.map((pickup) => (
                <PickupRow
                  key={pickup.id}
                  pickup={pickup}
                  takable={takable}
                  carried={reach.sourcesAt(pickup.id)}
                  reach={reach}
                />
              ))}
            </tbody>
          </table>
        </div>
      )}
    </Part>
  );
}

/** What the recorder plays back on, and how late; shown once it plays something back, or could. */
function PlaysBackOn() {
  const { setup, actions } = useSetup();
  const { monitorDevice, monitorDelayMs = 0 } = setup.recorder;
  if (monitorDevice === undefined && !setup.pickups.some(({ monitoring }) => monitoring)) return null;
  const set = (values: Setup['recorder']) => actions.edit({ edit: 'setRecorder', values });
  return (
    <span className="text-sm text-soft">
      it plays back on{' '}
      <Choice
        label="Device that the recorder plays back on"
        value={monitorDevice ?? ''}
        none="not said"
        options={monitorOutputs(setup)}
        onChange={(id) => id && set({ monitorDevice: id })}
      />{' '}
      <NumberField
        value={monitorDelayMs}
        label="How late the recorder plays back"
        unit="ms late"
        max={5000}
        onChange={(next) => set({ monitorDelayMs: next })}
      />
    </span>
  );
}

const MONITORING_WORDS: { id: NonNullable<Pickup['monitoring']>; name: string }[] = [
  { id: 'heard', name: 'heard only' },
  { id: 'heard and sent', name: 'heard and sent' },
];

function PickupRow({
  pickup,
  takable,
  carried,
  reach,
}: {
  pickup: Pickup;
  takable: { id: string; name: string }[];
  carried: string[];
  reach: Reach;
}) {
  const { setup, actions } = useSetup();
  const notify = useNotify();
  const [isProcessing, setProcessing] = useState(false);
  const change = (values: Partial<Omit<Pickup, 'id'>>, clear?: 'scenes'[]) =>
    actions.edit({ edit: 'updatePickup', id: pickup.id, values, clear });
  const app = setup.sources.find(({ id }) => id === pickup.takes);
  // A name that was asked for belongs to the app that was taken.
  const changeTaken = (takes: string) =>
    actions.edit({ edit: 'updatePickup', id: pickup.id, values: { takes }, clear: ['asksFor'] });
  const name = nameOf(setup, pickup.id);
  const all = setup.scenes.map(({ id }) => id);
  const inGroups = (setup.groups ?? []).filter(({ pickups }) => pickups.includes(pickup.id));
  const toggleScene = (id: string, on: boolean) => {
    const now = pickup.scenes ?? all;
    const next = all.filter((scene) => (scene === id ? on : now.includes(scene)));
    change(next.length === all.length ? {} : { scenes: next }, next.length === all.length ? ['scenes'] : []);
  };
  const setMonitoring = (monitoring: Pickup['monitoring']) => {
    try {
      actions.edit(monitoringEdit(setup, pickup, monitoring));
    } catch (error) {
      notify('trouble', (error as Error).message);
    }
  };
  const steps = stepsOn(pickup.processing);
  const words = [name, pickup.asksFor, ...[pickup.takes, ...carried].map((id) => nameOf(setup, id))];
  const { isShown, className, ...passing } = useLine([pickup.id], words);
  if (!isShown) return null;
  return (
    <tr
      className={clsx('border-t border-rule align-baseline', className)}
      data-pickup={pickup.id}
      {...passing}
    >
      <td className="py-1 pr-2">
        <NameField
          value={pickup.name ?? name}
          label={`Name of ${name}`}
          onChange={(next) => change({ name: next })}
          className="w-40"
        />
      </td>
      <td className="py-1 pr-2">
        <Choice
          label={`${name} takes`}
          value={pickup.takes}
          options={takable}
          className="w-44"
          onChange={(takes) => changeTaken(takes)}
        />
        <ChannelsTaken pickup={pickup} />
        {app && <AsksFor pickup={pickup} app={app} />}
      </td>
      <td className="py-1 pr-2 text-sm">
        {carried.length === 0 ? (
          <span className="text-soft">nothing</span>
        ) : (
          carried.map((id) => nameOf(setup, id)).join(' + ')
        )}
        {carried.length > 1 && <strong className="text-heather"> · fused</strong>}
      </td>
      <td className="py-1 pr-2">
        <DbField value={pickup.gainDb} label={`Gain of ${name}`} onChange={(gainDb) => change({ gainDb })} />
      </td>
      <td className="py-1 pr-2">
        <NumberField
          value={pickup.delayMs ?? 0}
          label={`Delay of ${name}`}
          unit="ms"
          max={5000}
          onChange={(delayMs) => change({ delayMs })}
        />
      </td>
      <td className="py-1 pr-2">
        <Tick
          checked={pickup.mono ?? false}
          label={`Fold ${name} to mono`}
          onChange={(mono) => change({ mono })}
        >
          mono
        </Tick>
        <Tick checked={pickup.muted ?? false} label={`Mute ${name}`} onChange={(muted) => change({ muted })}>
          mute
        </Tick>
      </td>
      <td className="py-1 pr-2">
        <Choice
          label={`${name} is played back`}
          value={pickup.monitoring ?? ''}
          none="no"
          options={MONITORING_WORDS}
          className="w-36"
          onChange={(id) => setMonitoring((id || undefined) as Pickup['monitoring'])}
        />
      </td>
      <td className="py-1 pr-2 text-sm">
        {setup.scenes.length === 0 ? (
          <span className="text-soft">always</span>
        ) : inGroups.length > 0 ? (
          <span className="text-soft">with {inGroups.map((group) => group.name).join(' and ')}</span>
        ) : (
          <span className="flex flex-wrap gap-x-3">
            {setup.scenes.map((scene) => (
              <Tick
                key={scene.id}
                checked={pickup.scenes?.includes(scene.id) ?? true}
                label={`${name} sounds in ${scene.name}`}
                onChange={(on) => toggleScene(scene.id, on)}
              >
                {scene.name}
              </Tick>
            ))}
          </span>
        )}
      </td>
      <td className="py-1 text-right whitespace-nowrap">
        <Button
          weight="quiet"
          aria-label={`Processing of ${name}`}
          title={
            steps.length > 0
              ? `Goes through: ${steps.map(wordFor).join(', ')}`
              : 'Process everything that it takes'
          }
          onClick={() => setProcessing(true)}
        >
          <SlidersHorizontal size={15} className={steps.length > 0 ? 'text-water' : ''} />
        </Button>
        {isProcessing && (
          <ProcessingSheet
            title={`Processing of ${name}`}
            places={placesOfAll(setup, reach, { kind: 'pickup', id: pickup.id })}
            onClose={() => setProcessing(false)}
          />
        )}
        <RemoveButton
          label={`Remove ${name}`}
          onClick={() => actions.edit({ edit: 'removePickup', id: pickup.id })}
        />
      </td>
    </tr>
  );
}

/** How many channels of a device are taken, where further ones are listed. */
function ChannelsTaken({ pickup }: { pickup: Pickup }) {
  const { setup, actions } = useSetup();
  const there = pairsOfDevice(setup, pickup.takes).length;
  if (there < 2) return null;
  const set = (pairs: number) =>
    actions.edit({
      edit: 'updatePickup',
      id: pickup.id,
      values: pairs > 1 ? { pairs } : {},
      clear: pairs > 1 ? undefined : ['pairs'],
    });
  return (
    <span className="mt-0.5 block text-xs text-soft">
      <Choice
        label={`Channels that ${nameOf(setup, pickup.id)} takes`}
        value={String(pickup.pairs ?? 1)}
        options={Array.from({ length: there }, (_, at) => ({
          id: String(at + 1),
          name: `${2 * at + 2} channels`,
        }))}
        className="w-28 py-0 text-xs"
        onChange={(pairs) => set(Number(pairs))}
      />
    </span>
  );
}

/** The name by which the recorder asks for an app; empty for whatever it is called. */
function AsksFor({ pickup, app }: { pickup: Pickup; app: Source }) {
  const { actions } = useSetup();
  const name = app.app ?? app.name;
  const set = (text: string) => {
    const asksFor = text.trim();
    actions.edit({
      edit: 'updatePickup',
      id: pickup.id,
      values: asksFor ? { asksFor } : {},
      clear: asksFor ? undefined : ['asksFor'],
    });
  };
  return (
    <span className="block text-xs text-soft">
      asks for{' '}
      <NameField
        value={pickup.asksFor ?? ''}
        label={`Name by which the recorder asks for ${name}`}
        placeholder={name}
        mayBeEmpty
        onChange={set}
        className="w-28 py-0 text-xs"
      />
      {!isCalledSo(pickup, app) && <strong className="text-reed"> nothing is called that</strong>}
    </span>
  );
}

/** What the recorder can take: the devices of its machine, and the apps that run there. */
function takableOf(setup: Setup): { id: string; name: string }[] {
  const machine = setup.recorder.machine;
  const isHere = (one: { machine?: string }) => machine === undefined || one.machine === machine;
  return [
    ...setup.devices.filter(isHere).map(({ id, name }) => ({ id, name: `device ${name}` })),
    ...setup.sources
      .filter((source) => isHere(source) || source.machine === undefined)
      .map(({ id, name }) => ({ id, name: `app ${name}` })),
  ];
}
