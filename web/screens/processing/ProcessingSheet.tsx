import { clsx } from 'clsx';
import { type ReactNode, useEffect, useState } from 'react';
import { type Processing, stepsOn } from '../../../core/processors/processing.ts';
import { processingOf } from '../../../core/setup/bearers.ts';
import type { SimpleEdit } from '../../../core/setup/edits.ts';
import { processEdit } from '../../../core/setup/processEdit.ts';
import type { Source } from '../../../core/setup/schema.ts';
import type { Transport } from '../../audio/transport.ts';
import { Button } from '../../parts/controls.tsx';
import { Sheet } from '../../parts/Sheet.tsx';
import { useTransportState } from '../../rehearsal.tsx';
import { useSetup } from '../../setupContext.tsx';
import { CompareButton, type Without } from './CompareButton.tsx';
import { CurveChart } from './CurveChart.tsx';
import { FromSample } from './FromSample.tsx';
import { Presets } from './Presets.tsx';
import type { ProcessingPlace } from './places.ts';
import { AddStep, StepList } from './StepList.tsx';

interface ProcessingSheetProps {
  title: string;
  /** What can be processed here; the first that can be is chosen at first. */
  places: ProcessingPlace[];
  /** The source that is processed, if it is one alone. */
  source?: Source;
  /** What plays meanwhile; its spectrum is that of `looks` (see `Transport.look`). */
  transport?: Transport | null;
  looks?: number;
  /** Who listens, and what lets them hear an edit without making it (null ends that). */
  compare?: { destination: string; onCompare: (edit: SimpleEdit | null) => void };
  onClose: () => void;
}

/** What is done to a source, on a leg of its way, or to a whole: steps in their order, each to be changed, bypassed, moved. */
export function ProcessingSheet(props: ProcessingSheetProps) {
  const { title, places, source, transport = null, looks = -1, compare, onClose } = props;
  const { setup, actions } = useSetup();
  const { loop } = useTransportState(transport);
  const [chosen, setChosen] = useState(0);
  const [without, setWithout] = useState<Without | null>(null);
  const place = places[chosen]?.bearer ? places[chosen] : places[0];
  useEffect(() => {
    transport?.look(looks);
    return () => transport?.look(-1);
  }, [transport, looks]);
  const bearer = place?.bearer;
  if (!bearer) return null;

  const processing = processingOf(setup, bearer);
  const editTo = (next: Processing) => processEdit(setup, bearer, next);
  const set = (next: Processing) => {
    if (next.length !== processing.length) setWithout(null);
    actions.edit(editTo(next));
  };
  const isAnyOn = stepsOn(processing).length > 0;
  const sampled = bearer.kind === 'source' ? source : undefined;
  return (
    <Sheet title={title} onClose={onClose} wide live>
      <div role="radiogroup" aria-label="For whom" className="flex flex-wrap items-center gap-1.5">
        {places.length > 1 &&
          places.map((one, index) => (
            <ForWhom
              key={one.label}
              chosen={one === place}
              disabled={!one.bearer}
              onChoose={() => {
                setWithout(null);
                setChosen(index);
              }}
            >
              {one.label}
            </ForWhom>
          ))}
        <p className="text-sm text-soft">{place.note}</p>
      </div>
      <div className={clsx('grid gap-x-6', sampled?.media && 'grid-cols-2')}>
        <CurveChart
          processing={processing}
          transport={transport}
          onChange={(at, step) => set(processing.map((one, i) => (i === at ? step : one)))}
        />
        {sampled?.media && (
          <FromSample source={sampled} path={sampled.media.path} passage={loop} onSet={set} />
        )}
      </div>
      <StepList
        keys={place.keys}
        processing={processing}
        onSet={set}
        without={without}
        onWithout={compare && (!source || source.media) ? setWithout : undefined}
      />
      <AddStep keys={place.keys} processing={processing} onSet={set} />
      <div className="mt-2 flex flex-wrap items-center gap-1.5 border-t border-rule pt-2">
        {processing.length > 0 && (
          <>
            <Button
              onClick={() => set(processing.map((step) => ({ ...step, off: isAnyOn ? true : undefined })))}
            >
              {isAnyOn ? 'Bypass all' : 'All on'}
            </Button>
            {compare && (
              <CompareButton
                source={source}
                destination={compare.destination}
                bearer={bearer}
                without={without}
                onWithout={setWithout}
                onCompare={(other) => compare.onCompare(other && editTo(other))}
              />
            )}
          </>
        )}
        <Presets
          processing={processing}
          isKey={(id) => place.keys.some((key) => key.id === id)}
          onSet={set}
        />
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
