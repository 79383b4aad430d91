import { type ReactNode, useEffect, useState } from 'react';
import { ownLegOf, processLeg } from '../../../core/routing/onTheWay.ts';
import type { Reach } from '../../../core/routing/reach.ts';
import type { SimpleEdit } from '../../../core/setup/edits.ts';
import { type Processing, stepsOn, withKeys } from '../../../core/setup/processing.ts';
import type { Source } from '../../../core/setup/schema.ts';
import { listed } from '../../../core/setup/words.ts';
import type { Transport } from '../../audio/transport.ts';
import { Button } from '../../parts/controls.tsx';
import { Sheet } from '../../parts/Sheet.tsx';
import { useSetup } from '../../setupContext.tsx';
import { CompareButton } from './CompareButton.tsx';
import { CurveChart } from './CurveChart.tsx';
import { FromSample } from './FromSample.tsx';
import { Presets } from './Presets.tsx';
import { AddStep, StepList } from './StepList.tsx';

interface ProcessingSheetProps {
  source: Source;
  reach: Reach;
  /** Whose ears are used: the source can be processed for them alone. */
  ear: { id: string; name: string };
  transport: Transport | null;
  /** Lets an edit be heard without making it; null to end that. */
  onCompare: (edit: SimpleEdit | null) => void;
  onClose: () => void;
}

/** What is done to a source, for everybody or on its way to one destination: steps in their order, each to be changed, bypassed, moved. */
export function ProcessingSheet({ source, reach, ear, transport, onCompare, onClose }: ProcessingSheetProps) {
  const { setup, actions } = useSetup();
  const [isForEar, setForEar] = useState(false);
  const destination = reach.destinations.find(({ id }) => id === ear.id);
  const leg = destination ? ownLegOf(setup, reach, source, destination) : null;
  const own = isForEar ? leg : null;
  const processing = (own ? own.processing : source.processing) ?? [];
  const index = setup.sources.findIndex(({ id }) => id === source.id);
  useEffect(() => {
    transport?.look(index);
    return () => transport?.look(-1);
  }, [transport, index]);

  const editTo = (next: Processing): SimpleEdit =>
    own
      ? processLeg(setup, own, next)
      : { edit: 'updateSource', id: source.id, values: { processing: next } };
  const set = (next: Processing) => actions.edit(editTo(next));
  const keys = setup.sources.filter(({ id }) =>
    own ? id !== source.id : !withKeys(setup.sources, [id]).has(source.id),
  );
  const isAnyOn = stepsOn(processing).length > 0;
  const companions = [...(leg?.others ?? []), ...(leg?.behind ?? [])].map(({ name }) => name);
  return (
    <Sheet title={`Processing of ${source.name}`} onClose={onClose} wide>
      <div role="radiogroup" aria-label="For whom" className="flex flex-wrap items-center gap-1.5">
        <ForWhom chosen={!own} onChoose={() => setForEar(false)}>
          For everybody
        </ForWhom>
        <ForWhom chosen={own !== null} disabled={!leg} onChoose={() => setForEar(true)}>
          On its way to {ear.name} alone
        </ForWhom>
        <p className="text-sm text-soft">
          {own
            ? companions.length > 0
              ? `${listed(companions)} ${companions.length === 1 ? 'gets' : 'get'} the same: the way is shared.`
              : 'Nobody else gets it so.'
            : leg
              ? 'It belongs to the source: everybody gets it so.'
              : reach.at(source.id, ear.id)
                ? `It belongs to the source. No control on the way to ${ear.name} could carry it alone.`
                : `It belongs to the source. It does not arrive at ${ear.name}.`}
        </p>
      </div>
      <div className="grid grid-cols-2 gap-x-6">
        <CurveChart
          processing={processing}
          transport={transport}
          onChange={(at, step) => set(processing.map((one, i) => (i === at ? step : one)))}
        />
        {source.media && !own && <FromSample source={source} path={source.media.path} onSet={set} />}
      </div>
      <StepList keys={keys} processing={processing} onSet={set} />
      <AddStep keys={keys} processing={processing} onSet={set} />
      <div className="mt-2 flex flex-wrap items-center gap-1.5 border-t border-rule pt-2">
        {processing.length > 0 && (
          <>
            <Button
              onClick={() => set(processing.map((step) => ({ ...step, off: isAnyOn ? true : undefined })))}
            >
              {isAnyOn ? 'Bypass all' : 'All on'}
            </Button>
            <CompareButton
              setup={setup}
              source={source}
              ownLeg={own !== null}
              processing={processing}
              onCompare={(other) => onCompare(other && editTo(other))}
            />
          </>
        )}
        <Presets setup={setup} source={source} processing={processing} onSet={set} />
      </div>
    </Sheet>
  );
}

function ForWhom({
  chosen,
  disabled,
  onChoose,
  children,
}: {
  chosen: boolean;
  disabled?: boolean;
  onChoose: () => void;
  children: ReactNode;
}) {
  return (
    <Button
      role="radio"
      aria-checked={chosen}
      disabled={disabled}
      className={chosen ? 'border-ink font-semibold' : ''}
      onClick={onChoose}
    >
      {children}
    </Button>
  );
}
