import type { Processor } from '../../../core/processors/processing.ts';
import type { Source } from '../../../core/setup/schema.ts';
import { FigureField, fieldClass } from '../../parts/FigureField.tsx';

interface Field {
  key: string;
  label: string;
  unit: string;
  min: number;
  max: number;
}

const HZ = { key: 'hz', label: 'at', unit: 'Hz', min: 10, max: 20_000 };
const ATTACK = { key: 'attackMs', label: 'attack', unit: 'ms', min: 0.1, max: 5000 };
const HOLD = { key: 'holdMs', label: 'hold', unit: 'ms', min: 0, max: 5000 };
const RELEASE = { key: 'releaseMs', label: 'release', unit: 'ms', min: 0.1, max: 5000 };
const FIELDS: Record<Processor['does'], Field[]> = {
  trim: [{ key: 'gainDb', label: 'by', unit: 'dB', min: -40, max: 40 }],
  'high-pass': [HZ],
  band: [
    HZ,
    { key: 'gainDb', label: 'by', unit: 'dB', min: -24, max: 24 },
    { key: 'q', label: 'Q', unit: '', min: 0.1, max: 20 },
  ],
  gate: [
    { key: 'opensDb', label: 'opens at', unit: 'dBFS', min: -100, max: 0 },
    { key: 'rangeDb', label: 'range', unit: 'dB', min: -100, max: 0 },
    { key: 'hysteresisDb', label: 'hysteresis', unit: 'dB', min: 0, max: 24 },
    ATTACK,
    HOLD,
    RELEASE,
  ],
  compressor: [
    { key: 'thresholdDb', label: 'threshold', unit: 'dBFS', min: -80, max: 0 },
    { key: 'ratio', label: 'ratio', unit: ': 1', min: 1, max: 40 },
    { key: 'kneeDb', label: 'knee', unit: 'dB', min: 0, max: 24 },
    ATTACK,
    RELEASE,
    { key: 'makeUpDb', label: 'make-up', unit: 'dB', min: -24, max: 24 },
  ],
  'noise reduction': [{ key: 'reduceDb', label: 'noise down by', unit: 'dB', min: 3, max: 60 }],
  ducking: [
    { key: 'opensDb', label: 'from', unit: 'dBFS', min: -100, max: 0 },
    { key: 'depthDb', label: 'down by', unit: 'dB', min: 0, max: 60 },
    ATTACK,
    HOLD,
    RELEASE,
  ],
  limiter: [{ key: 'ceilingDbtp', label: 'ceiling', unit: 'dBTP', min: -30, max: 0 }, RELEASE],
  polarity: [],
  'mono fold': [],
  delay: [{ key: 'delayMs', label: 'by', unit: 'ms', min: 0, max: 2000 }],
};
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
      {FIELDS[step.does].map((field) => (
        <span key={field.key} className="inline-flex items-center gap-1 text-xs text-soft">
          {field.label}
          <FigureField
            value={Number((step as unknown as Record<string, number>)[field.key])}
            label={`${field.label} ${field.unit}`}
            unit={field.unit}
            min={field.min}
            max={field.max}
            onChange={(value) => onChange({ ...step, [field.key]: value } as Processor)}
          />
        </span>
      ))}
    </>
  );
}
