import { clsx } from 'clsx';
import { PUBLISHED_USES, type PublishedUse, USE_WORDS } from '../../../core/setup/clearance.ts';

/** Which uses are meant: each is on or off. */
export function UseToggles({
  value,
  label,
  tone,
  onChange,
}: {
  value: PublishedUse[];
  /** Said before each use. */
  label: string;
  /** Whether a use is somewhere to go, or not allowed. */
  tone: 'goes' | 'not';
  onChange: (uses: PublishedUse[]) => void;
}) {
  return (
    <fieldset aria-label={label} className="flex gap-1">
      {PUBLISHED_USES.map((use) => {
        const isOn = value.includes(use);
        return (
          <button
            key={use}
            type="button"
            aria-pressed={isOn}
            aria-label={`${label}: ${USE_WORDS[use]}`}
            className={clsx(
              'min-h-6 rounded-sm border px-1.5 text-sm',
              isOn && tone === 'goes' && 'border-water bg-water-pale/60 font-semibold',
              isOn && tone === 'not' && 'border-clay bg-clay-pale font-semibold line-through',
              !isOn && 'border-rule bg-sheet text-soft hover:border-ink',
            )}
            onClick={() =>
              onChange(PUBLISHED_USES.filter((one) => (one === use ? !isOn : value.includes(one))))
            }
          >
            {USE_WORDS[use]}
          </button>
        );
      })}
    </fieldset>
  );
}
