import { useEffect, useState } from 'react';
import type { Aim } from '../../../core/balance/aims.ts';
import { parseDb } from '../../format.ts';
import { fieldClass } from '../../parts/controls.tsx';

interface AimFieldsProps {
  aim: Aim;
  onChange: (values: { targetLufs?: number | null; ceilingDbtp?: number; bedLu?: number }) => void;
}

/** What is to hold true at a destination: how loud, how high the peaks, how far the bed lies under the voices. */
export function AimFields({ aim, onChange }: AimFieldsProps) {
  return (
    <div className="flex flex-wrap items-end gap-x-4 gap-y-1">
      <Figure
        label="Target"
        unit="LUFS"
        value={aim.targetLufs}
        min={-60}
        max={0}
        empty="as it is"
        onChange={(targetLufs) => onChange({ targetLufs })}
      />
      <Figure
        label="True peak, at most"
        unit="dBTP"
        value={aim.ceilingDbtp}
        min={-20}
        max={0}
        onChange={(ceilingDbtp) => ceilingDbtp !== null && onChange({ ceilingDbtp })}
      />
      <Figure
        label="Bed under the voices"
        unit="LU"
        value={aim.bedLu}
        min={0}
        max={40}
        onChange={(bedLu) => bedLu !== null && onChange({ bedLu })}
      />
    </div>
  );
}

interface FigureProps {
  label: string;
  unit: string;
  value: number | null;
  min: number;
  max: number;
  /** What an empty field means; it cannot be empty when left out. */
  empty?: string;
  onChange: (value: number | null) => void;
}

function Figure({ label, unit, value, min, max, empty, onChange }: FigureProps) {
  const said = value === null ? '' : value.toFixed(1).replace('-', '−');
  const [text, setText] = useState(said);
  const [isWrong, setWrong] = useState(false);
  useEffect(() => {
    setText(said);
    setWrong(false);
  }, [said]);
  const take = () => {
    const next = text.trim() === '' ? null : parseDb(text);
    const isEmpty = text.trim() === '' && empty !== undefined;
    if (!isEmpty && (next === null || next < min || next > max)) setWrong(true);
    else if (next !== value) onChange(next);
  };
  return (
    <label className="relative text-sm">
      <span className="block text-xs text-soft">{label}</span>
      <input
        className={`${fieldClass} w-20 text-right ${isWrong ? 'border-clay' : ''}`}
        inputMode="decimal"
        aria-invalid={isWrong}
        placeholder={empty}
        value={text}
        onChange={(event) => setText(event.target.value)}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key === 'Enter') take();
          if (event.key === 'Escape') setText(said);
        }}
      />{' '}
      <span className="text-soft">{unit}</span>
      {isWrong && (
        <span
          role="alert"
          className="absolute top-full left-0 z-10 bg-sheet px-2 py-1 text-xs text-clay shadow"
        >
          a figure from {min} to {max}
        </span>
      )}
    </label>
  );
}
