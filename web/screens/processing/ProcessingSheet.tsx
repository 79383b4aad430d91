import { ArrowDown, ArrowUp } from 'lucide-react';
import {
  NEW_PROCESSORS,
  type Processing,
  type Processor,
  STEP_WORDS,
} from '../../../core/setup/processing.ts';
import type { Source } from '../../../core/setup/schema.ts';
import { Button, RemoveButton } from '../../parts/controls.tsx';
import { Sheet } from '../../parts/Sheet.tsx';
import { useSetup } from '../../setupContext.tsx';
import { CurveChart } from './CurveChart.tsx';
import { FromSample } from './FromSample.tsx';
import { StepFields } from './StepFields.tsx';

const KINDS = Object.keys(NEW_PROCESSORS) as Processor['does'][];

/** What is done to a source before anybody gets it: steps in their order, each to be changed, bypassed, moved. */
export function ProcessingSheet({ source, onClose }: { source: Source; onClose: () => void }) {
  const { actions } = useSetup();
  const { processing = [] } = source;
  const set = (next: Processing) =>
    actions.edit({ edit: 'updateSource', id: source.id, values: { processing: next } });
  const change = (index: number, step: Processor) =>
    set(processing.map((one, i) => (i === index ? step : one)));
  const move = (index: number, to: number) => {
    const rest = processing.filter((_, i) => i !== index);
    set([...rest.slice(0, to), processing[index], ...rest.slice(to)]);
  };
  return (
    <Sheet title={`Processing of ${source.name}`} onClose={onClose} wide>
      <p className="text-sm text-soft">
        It belongs to the source: everybody gets it so. While it plays, each change is heard at once.
      </p>
      {processing.length === 0 ? (
        <p className="py-2">Nothing is done to it yet.</p>
      ) : (
        <ol aria-label="Steps" className="my-2 space-y-1">
          {processing.map((step, index) => (
            <li
              key={`${index} ${step.does}`}
              className={`flex flex-wrap items-end gap-x-3 gap-y-1 border-t border-rule py-1.5 ${step.off ? 'text-soft' : ''}`}
            >
              <label className="flex w-40 items-center gap-2 self-center">
                <input
                  type="checkbox"
                  checked={!step.off}
                  aria-label={`${STEP_WORDS[step.does]} ${index + 1} is on`}
                  onChange={(event) =>
                    change(index, { ...step, off: event.target.checked ? undefined : true })
                  }
                />
                <span className={step.off ? 'line-through' : 'font-semibold'}>{STEP_WORDS[step.does]}</span>
              </label>
              <StepFields step={step} onChange={(next) => change(index, next)} />
              <span className="flex-1" />
              <span className="flex self-center">
                <Button
                  weight="quiet"
                  disabled={index === 0}
                  aria-label={`Move the ${STEP_WORDS[step.does]} up`}
                  onClick={() => move(index, index - 1)}
                >
                  <ArrowUp size={14} />
                </Button>
                <Button
                  weight="quiet"
                  disabled={index === processing.length - 1}
                  aria-label={`Move the ${STEP_WORDS[step.does]} down`}
                  onClick={() => move(index, index + 1)}
                >
                  <ArrowDown size={14} />
                </Button>
                <RemoveButton
                  label={`Remove the ${STEP_WORDS[step.does]}`}
                  onClick={() => set(processing.filter((_, i) => i !== index))}
                />
              </span>
            </li>
          ))}
        </ol>
      )}
      <div className="flex flex-wrap gap-1.5">
        {KINDS.map((kind) => (
          <Button key={kind} onClick={() => set([...processing, NEW_PROCESSORS[kind]])}>
            Add {STEP_WORDS[kind]}
          </Button>
        ))}
        {processing.length > 0 && (
          <Button
            onClick={() => {
              const isAnyOn = processing.some(({ off }) => !off);
              set(processing.map((step) => ({ ...step, off: isAnyOn ? true : undefined })));
            }}
          >
            {processing.some(({ off }) => !off) ? 'Bypass all' : 'All on'}
          </Button>
        )}
      </div>
      <div className="grid grid-cols-2 gap-x-6">
        <CurveChart processing={processing} />
        {source.media && <FromSample source={source} path={source.media.path} onSet={set} />}
      </div>
    </Sheet>
  );
}
