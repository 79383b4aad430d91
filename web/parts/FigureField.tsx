import { clsx } from 'clsx';
import { type KeyboardEvent, useEffect, useState } from 'react';
import { formatPlain, parseFigure } from '../format.ts';

/** The classes of a text field or a select. */
export const fieldClass = 'rounded-sm border border-rule bg-sheet px-2 py-1 text-sm hover:border-soft';

interface FigureFieldProps {
  value: number | null;
  label: string;
  unit: string;
  min: number;
  max: number;
  /** How it is written; as a plain number when left out. */
  say?: (value: number) => string;
  /** How it is read; as a number when left out. */
  parse?: (text: string) => number | null;
  /** The arrow keys move it by so much; not at all when left out. */
  step?: number;
  /** What an empty field means, which is then null; it cannot be empty when left out. */
  empty?: string;
  className?: string;
  /** Taken with each figure that is typed, where what comes of it is seen beside it. */
  live?: boolean;
  onChange: (value: number | null) => void;
}

/** A figure that can be typed: taken with Enter or by leaving the field, told when it is out of range, left with Escape. */
export function FigureField({
  value,
  label,
  unit,
  min,
  max,
  say = formatPlain,
  parse = parseFigure,
  step,
  empty,
  className = 'w-16',
  live = false,
  onChange,
}: FigureFieldProps) {
  const said = value === null ? '' : say(value);
  const [text, setText] = useState(said);
  const [isWrong, setWrong] = useState(false);
  const reset = () => {
    setText(said);
    setWrong(false);
  };
  useEffect(reset, [said]);
  const take = () => {
    const isEmpty = empty !== undefined && text.trim() === '';
    const next = isEmpty ? null : parse(text);
    if (!isEmpty && (next === null || next < min || next > max)) return setWrong(true);
    if (text.trim() === said || next === value) reset();
    else onChange(next);
  };
  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>) => {
    const by = event.key === 'ArrowUp' ? step : event.key === 'ArrowDown' && step ? -step : undefined;
    if (event.key === 'Enter') take();
    else if (event.key === 'Escape' && (text !== said || isWrong)) {
      reset();
      event.stopPropagation();
    } else if (by !== undefined && value !== null) onChange(Math.max(min, Math.min(max, value + by)));
    else return;
    event.preventDefault();
  };
  return (
    <span className="relative inline-flex items-center gap-1 whitespace-nowrap">
      <input
        aria-label={label}
        aria-invalid={isWrong}
        inputMode="decimal"
        placeholder={empty}
        value={text}
        data-said={said}
        onChange={(event) => {
          setText(event.target.value);
          const next = live ? parse(event.target.value) : null;
          if (next !== null && next >= min && next <= max) onChange(next);
        }}
        onBlur={take}
        onKeyDown={onKeyDown}
        className={clsx(fieldClass, 'text-right text-ink', className, isWrong && 'border-clay')}
      />
      {unit !== '' && <span className="text-sm text-soft">{unit}</span>}
      {isWrong && (
        <span
          role="alert"
          className="absolute top-full right-0 z-10 mt-1 bg-sheet px-2 py-1 text-xs text-clay shadow"
        >
          {parse === parseFigure
            ? `a figure from ${formatPlain(min)} to ${formatPlain(max)}`
            : `from ${say(min)} to ${say(max)}`}
        </span>
      )}
    </span>
  );
}

/** A figure as {@link FigureField} has it, which cannot be empty. */
export function SetFigure({
  onChange,
  ...field
}: Omit<FigureFieldProps, 'empty' | 'value' | 'onChange'> & {
  value: number;
  onChange: (value: number) => void;
}) {
  return <FigureField {...field} onChange={(value) => value !== null && onChange(value)} />;
}
