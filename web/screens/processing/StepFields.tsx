import { kindOf, type Processor } from '../../../core/processors/processing.ts';
import type { Source } from '../../../core/setup/schema.ts';
import { FigureField, fieldClass } from '../../parts/FigureField.tsx';

const SHAPES = { 'low-shelf': 'low shelf', bell: 'bell', 'high-shelf': 'high shelf' } as const;

interface StepFieldsProps {
  step: Processor;
  /** The sources that it can listen to. */
  keys: Source[];
  onChange: (step: Processor) => void;
}

/** The figures of one step of a processing. */
export function StepFields({ step, keys, onChange }: StepFieldsProps) {
  return (
    <>
      {step.does === 'ducking' && (
        <span className="inline-flex items-center gap-1 text-xs text-soft">
          under
          <select
            aria-label="Ducks under"
            className={`${fieldClass} max-w-36`}
            value={step.key}
            onChange={(event) => onChange({ ...step, key: event.target.value })}
          >
            {keys.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </select>
        </span>
      )}
      {step.does === 'band' && (
        <select
          aria-label="Shape of the band"
          className={fieldClass}
          value={step.shape}
          onChange={(event) => onChange({ ...step, shape: event.target.value as typeof step.shape })}
        >
          {Object.entries(SHAPES).map(([shape, word]) => (
            <option key={shape} value={shape}>
              {word}
            </option>
          ))}
        </select>
      )}
      {Object.entries(kindOf(step).figures).map(([key, { label, unit, min, max }]) => (
        <span key={key} className="inline-flex items-center gap-1 text-xs text-soft">
          {label}
          <FigureField
            value={Number((step as unknown as Record<string, number>)[key])}
            label={`${label} ${unit}`}
            unit={unit}
            min={min}
            max={max}
            onChange={(value) => onChange({ ...step, [key]: value } as Processor)}
          />
        </span>
      ))}
    </>
  );
}
