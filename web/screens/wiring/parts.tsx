import type { ReactNode } from 'react';
import { fieldClass } from '../../parts/controls.tsx';

/** One part of the page, with a heading that the list on the left jumps to. */
export function Part({
  id,
  title,
  aside,
  children,
}: {
  id: string;
  title: ReactNode;
  aside?: ReactNode;
  children: ReactNode;
}) {
  return (
    <section id={`wiring-${id}`} className="scroll-mt-4">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b-2 border-ink pb-1">
        <h2 className="font-title text-xl">{title}</h2>
        <span className="flex-1" />
        {aside}
      </div>
      {children}
    </section>
  );
}

/** The head of a table, in small soft letters; an empty title is read as "Remove". */
export function Head({ titles }: { titles: string[] }) {
  return (
    <thead>
      <tr className="text-left text-xs text-soft">
        {titles.map((title, index) => (
          <th key={index} scope="col" className="py-1 pr-3 font-normal">
            {title || <span className="sr-only">Remove</span>}
          </th>
        ))}
      </tr>
    </thead>
  );
}

/** A choice among things by id; `none` is what the empty choice says, when there is one. */
export function Choice({
  label,
  value,
  options,
  none,
  onChange,
  className = '',
}: {
  label: string;
  value: string;
  options: { id: string; name: string }[];
  none?: string;
  onChange: (id: string) => void;
  className?: string;
}) {
  return (
    <select
      aria-label={label}
      value={value}
      className={`${fieldClass} ${className}`}
      onChange={(event) => onChange(event.target.value)}
    >
      {none !== undefined && <option value="">{none}</option>}
      {options.map(({ id, name }) => (
        <option key={id} value={id}>
          {name}
        </option>
      ))}
    </select>
  );
}

/** A whole number of milliseconds, percent or the like, that is taken when the field is left. */
export function NumberField({
  value,
  label,
  unit,
  max,
  onChange,
}: {
  value: number;
  label: string;
  unit: string;
  max: number;
  onChange: (value: number) => void;
}) {
  return (
    <span className="inline-flex items-center gap-1 whitespace-nowrap">
      <input
        key={value}
        type="number"
        aria-label={label}
        defaultValue={value}
        min={0}
        max={max}
        className={`${fieldClass} w-20 text-right`}
        onBlur={(event) => {
          const next = Math.max(0, Math.min(max, Number(event.target.value)));
          if (Number.isFinite(next) && next !== value) onChange(next);
          else event.target.value = String(value);
        }}
        onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
      />
      <span className="text-sm text-soft">{unit}</span>
    </span>
  );
}

/** A box to tick, with its word. */
export function Tick({
  checked,
  label,
  children,
  onChange,
}: {
  checked: boolean;
  label?: string;
  children: ReactNode;
  onChange: (checked: boolean) => void;
}) {
  return (
    <label className="inline-flex items-center gap-1.5 text-sm whitespace-nowrap">
      <input
        type="checkbox"
        checked={checked}
        aria-label={label}
        onChange={(event) => onChange(event.target.checked)}
      />
      {children}
    </label>
  );
}
