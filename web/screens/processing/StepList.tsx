import { Ear } from 'lucide-react';
import {
  MOST_STEPS,
  PROCESSORS,
  type Processing,
  type Processor,
  wordFor,
} from '../../../core/processors/processing.ts';
import type { Source } from '../../../core/setup/schema.ts';
import { Button, MoveButtons, RemoveButton } from '../../parts/controls.tsx';
import type { Without } from './CompareButton.tsx';
import { StepFields } from './StepFields.tsx';

interface StepListProps {
  /** The sources that it can duck under. */
  keys: Source[];
  processing: Processing;
  onSet: (processing: Processing) => void;
}

interface ComparedListProps extends StepListProps {
  /** What is left out to compare. */
  without: Without | null;
  /** Leaves a step out of what is heard, as loud; missing where nothing can be heard. */
  onWithout?: (without: Without | null) => void;
}

/** The steps of a processing in their order. */
export function StepList({ keys, processing, onSet, without, onWithout }: ComparedListProps) {
  const change = (index: number, step: Processor) =>
    onSet(processing.map((one, i) => (i === index ? step : one)));
  const move = (index: number, to: number) => {
    const rest = processing.filter((_, i) => i !== index);
    onSet([...rest.slice(0, to), processing[index], ...rest.slice(to)]);
  };
  if (processing.length === 0) return <p className="py-2">Nothing is done to it yet.</p>;
  return (
    <ol aria-label="Steps" className="my-2 space-y-1">
      {processing.map((step, index) => (
        <li
          key={`${index} ${step.does}`}
          className={`grid grid-cols-[10rem_minmax(0,1fr)_auto] items-center gap-x-3 border-t border-rule py-1 ${step.off ? 'text-soft' : ''}`}
        >
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={!step.off}
              aria-label={`${wordFor(step)} ${index + 1} is on`}
              onChange={(event) => change(index, { ...step, off: event.target.checked ? undefined : true })}
            />
            <span className={step.off ? 'line-through' : 'font-semibold'}>
              <span className="font-normal text-soft">{index + 1}</span> {wordFor(step)}
            </span>
          </label>
          <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
            <StepFields step={step} keys={keys} onChange={(next) => change(index, next)} />
          </div>
          <span className="flex">
            {onWithout && (
              <Button
                weight="quiet"
                disabled={step.off}
                aria-pressed={without === index}
                aria-label={`Hear it without the ${wordFor(step)} ${index + 1}, as loud`}
                title="Hear it without this step, as loud"
                className={without === index ? 'border-ink! text-water' : ''}
                onClick={() => onWithout(without === index ? null : index)}
              >
                <Ear size={15} />
              </Button>
            )}
            <MoveButtons
              name={`the ${wordFor(step)}`}
              index={index}
              count={processing.length}
              onMove={(to) => move(index, to)}
            />
            <RemoveButton
              label={`Remove the ${wordFor(step)}`}
              onClick={() => onSet(processing.filter((_, i) => i !== index))}
            />
          </span>
        </li>
      ))}
    </ol>
  );
}

const KINDS = Object.keys(PROCESSORS) as Processor['does'][];

/** One button for each kind of step. A ducking makes room for the first voice that it can duck under. */
export function AddStep({ keys, processing, onSet }: StepListProps) {
  const voice = keys.find(({ kind }) => kind === 'microphone') ?? keys[0];
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      <span className="text-sm text-soft">Add:</span>
      {KINDS.map((kind) => (
        <Button
          key={kind}
          aria-label={`Add ${PROCESSORS[kind].word}`}
          disabled={processing.length >= MOST_STEPS || (kind === 'ducking' && !voice)}
          onClick={() => {
            const step = PROCESSORS[kind].initial;
            onSet(withStep(processing, step.does === 'ducking' ? { ...step, key: voice.id } : step));
          }}
        >
          {PROCESSORS[kind].word}
        </Button>
      ))}
    </div>
  );
}

/** A new step comes last, but before a limiter that holds the peak of it all. */
function withStep(processing: Processing, step: Processor): Processing {
  const holds = processing.at(-1)?.does === 'limiter' && step.does !== 'limiter';
  return holds ? [...processing.slice(0, -1), step, ...processing.slice(-1)] : [...processing, step];
}
