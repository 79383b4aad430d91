import type { ReactNode } from 'react';
import { fieldClass, SetFigure } from '../../parts/FigureField.tsx';

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

/** A number of milliseconds, mixes or the like, from 0 up. */
export function NumberField(field: {
  value: number;
  label: string;
  unit: string;
  max: number;
  onChange: (value: number) => void;
}) {
  return <SetFigure {...field} min={0} />;
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
