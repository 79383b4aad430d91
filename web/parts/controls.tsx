import { clsx } from 'clsx';
import { ArrowDown, ArrowUp, Trash2 } from 'lucide-react';
import { type ButtonHTMLAttributes, type ReactNode, useEffect, useState } from 'react';
import { MAX_GAIN_DB, MIN_GAIN_DB } from '../../core/setup/schema.ts';
import { formatDb } from '../format.ts';
import { fieldClass, SetFigure } from './FigureField.tsx';

type Weight = 'main' | 'plain' | 'quiet' | 'danger';

const WEIGHTS: Record<Weight, string> = {
  main: 'border-water bg-water text-paper hover:brightness-110',
  plain: 'border-rule bg-sheet hover:border-ink',
  quiet: 'border-transparent hover:bg-sunk',
  danger: 'border-clay text-clay hover:bg-clay hover:text-paper',
};

/** A button. `main` is the one thing to do next; there is at most one on a screen. */
export function Button({
  weight = 'plain',
  className,
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { weight?: Weight }) {
  return (
    <button
      type="button"
      className={clsx(
        'inline-flex items-center gap-1.5 rounded-sm border px-2.5 py-1 text-sm whitespace-nowrap disabled:opacity-40',
        WEIGHTS[weight],
        className,
      )}
      {...rest}
    />
  );
}

/** Takes a thing away; the label says which. */
export function RemoveButton({ label, onClick }: { label: string; onClick: () => void }) {
  return (
    <Button weight="quiet" aria-label={label} title="Remove (can be undone)" onClick={onClick}>
      <Trash2 size={15} />
    </Button>
  );
}

/** Moves a thing one place up or down in its list. */
export function MoveButtons({
  name,
  index,
  count,
  onMove,
}: {
  name: string;
  index: number;
  count: number;
  onMove: (to: number) => void;
}) {
  return (
    <>
      <Button
        weight="quiet"
        disabled={index === 0}
        aria-label={`Move ${name} up`}
        onClick={() => onMove(index - 1)}
      >
        <ArrowUp size={15} />
      </Button>
      <Button
        weight="quiet"
        disabled={index === count - 1}
        aria-label={`Move ${name} down`}
        onClick={() => onMove(index + 1)}
      >
        <ArrowDown size={15} />
      </Button>
    </>
  );
}

export { fieldClass };

/** A text that can be changed in place: Enter or leaving the field takes it, Escape does not. */
export function NameField({
  value,
  label,
  onChange,
  className,
  placeholder,
  mayBeEmpty = false,
}: {
  value: string;
  label: string;
  onChange: (name: string) => void;
  className?: string;
  placeholder?: string;
  /** Whether an empty name means something; else the old one comes back. */
  mayBeEmpty?: boolean;
}) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  const take = () => {
    const name = text.trim();
    if ((name === '' && !mayBeEmpty) || name === value) setText(value);
    else onChange(name.slice(0, 80));
  };
  return (
    <input
      aria-label={label}
      value={text}
      data-said={value}
      placeholder={placeholder}
      maxLength={80}
      onChange={(event) => setText(event.target.value)}
      onBlur={take}
      onKeyDown={(event) => {
        if (event.key === 'Enter') take();
        else if (event.key === 'Escape' && text !== value) {
          setText(value);
          event.stopPropagation();
        }
      }}
      className={clsx(
        'rounded-sm border border-transparent bg-transparent px-1 py-0.5 hover:border-rule focus:bg-sheet',
        className,
      )}
    />
  );
}

/** A gain in dB that can be typed, or moved by 1 dB with the arrow keys. */
export function DbField({
  value,
  label,
  unit = 'dB',
  onChange,
}: {
  value: number;
  label: string;
  /** Empty where the unit stands above the column. */
  unit?: 'dB' | '';
  onChange: (gainDb: number) => void;
}) {
  return (
    <SetFigure
      value={value}
      label={label}
      unit={unit}
      min={MIN_GAIN_DB}
      max={MAX_GAIN_DB}
      step={1}
      say={formatDb}
      onChange={onChange}
    />
  );
}

/** A screen's title and the sentence below it. */
export function ScreenTitle({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div>
      <h1 className="font-title text-2xl leading-tight">{title}</h1>
      {children && <p className="max-w-2xl text-soft">{children}</p>}
    </div>
  );
}

/** What a screen shows while it waits, when something failed, or when there is nothing yet. */
export function Blank({
  title,
  level = 1,
  children,
}: {
  title: string;
  /** 2 where the screen has a title of its own. */
  level?: 1 | 2;
  children?: ReactNode;
}) {
  const Title = level === 1 ? 'h1' : 'h2';
  return (
    <div className="mx-auto flex max-w-lg flex-col items-start gap-3 px-6 py-16">
      <Title className="font-title text-xl">{title}</Title>
      {children}
    </div>
  );
}

/** How far a long piece of work is. @param share 0 to 1 */
export function ProgressBar({ share, label }: { share: number; label: string }) {
  const percent = Math.round(share * 100);
  return (
    <div
      role="progressbar"
      aria-label={label}
      aria-valuenow={percent}
      aria-valuemin={0}
      aria-valuemax={100}
      className="h-2.5 w-full border border-rule bg-sunk"
    >
      <div className="h-full bg-water transition-[width]" style={{ width: `${percent}%` }} />
    </div>
  );
}
