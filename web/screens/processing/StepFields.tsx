import { useEffect, useState } from 'react';
import type { Processor } from '../../../core/setup/processing.ts';
import { parseDb } from '../../format.ts';
import { fieldClass } from '../../parts/controls.tsx';

interface Field {
  key: string;
  label: string;
  unit: string;
  min: number;
  max: number;
}

const HZ = { key: 'hz', label: 'at', unit: 'Hz', min: 10, max: 20_000 };
const ATTACK = { key: 'attackMs', label: 'attack', unit: 'ms', min: 0.1, max: 5000 };
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
    { key: 'holdMs', label: 'hold', unit: 'ms', min: 0, max: 5000 },
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
};
const SHAPES = { 'low-shelf': 'low shelf', bell: 'bell', 'high-shelf': 'high shelf' } as const;

/** The figures of one step of a processing. */
export function StepFields({ step, onChange }: { step: Processor; onChange: (step: Processor) => void }) {
  return (
    <>
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
        <FigureField
          key={field.key}
          field={field}
          value={Number((step as unknown as Record<string, number>)[field.key])}
          onChange={(value) => onChange({ ...step, [field.key]: value } as Processor)}
        />
      ))}
    </>
  );
}

function FigureField({
  field: { label, unit, min, max },
  value,
  onChange,
}: {
  field: Field;
  value: number;
  onChange: (value: number) => void;
}) {
  const said = String(value).replace('-', '−');
  const [text, setText] = useState(said);
  const [isWrong, setWrong] = useState(false);
  useEffect(() => {
    setText(said);
    setWrong(false);
  }, [said]);
  const take = () => {
    const next = parseDb(text);
    if (next === null || next < min || next > max) setWrong(true);
    else if (next !== value) onChange(next);
  };
  return (
    <label className="relative text-xs text-soft">
      {label}{' '}
      <input
        className={`${fieldClass} w-16 text-right text-ink ${isWrong ? 'border-clay' : ''}`}
        inputMode="decimal"
        aria-invalid={isWrong}
        value={text}
        onChange={(event) => setText(event.target.value)}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key === 'Enter') take();
        }}
      />{' '}
      {unit}
      {isWrong && (
        <span role="alert" className="absolute top-full left-0 z-10 bg-sheet px-2 py-1 text-clay shadow">
          a figure from {min} to {max}
        </span>
      )}
    </label>
  );
}
