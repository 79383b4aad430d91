import { Popover } from 'radix-ui';
import {
  CLEARANCE_PRESETS,
  type Clearance,
  type ClearancePreset,
  clearanceOf,
  daysLeft,
  hasExpired,
  presetOf,
  USE_WORDS,
  USES,
} from '../../../core/setup/clearance.ts';
import type { Source } from '../../../core/setup/schema.ts';
import { formatDay, today } from '../../format.ts';
import { fieldClass } from '../../parts/controls.tsx';

/** The end of a clearance is told so many days before. */
const TOLD_DAYS = 14;

/** The clearance of a source: a preset, or single uses by hand, with a note and an expiry date. */
export function ClearanceField({
  source,
  onChange,
}: {
  source: Source;
  onChange: (clearance: Clearance) => void;
}) {
  const { clearance, name } = source;
  const preset = presetOf(clearance);
  const allowed = USES.filter((use) => clearance[use]).map((use) => USE_WORDS[use]);
  const expired = hasExpired(clearance, today());
  const left = daysLeft(clearance, today());
  const isSoon = !expired && left !== null && left <= TOLD_DAYS;
  const keep = ({ note, expiresOn }: Clearance) => ({
    ...(note ? { note } : {}),
    ...(expiresOn ? { expiresOn } : {}),
  });
  return (
    <div>
      <div className="flex gap-1">
        <select
          aria-label={`Clearance of ${name}`}
          className={fieldClass}
          value={preset ?? 'hand'}
          onChange={(event) => {
            if (event.target.value !== 'hand')
              onChange({ ...clearanceOf(event.target.value as ClearancePreset), ...keep(clearance) });
          }}
        >
          {(Object.keys(CLEARANCE_PRESETS) as ClearancePreset[]).map((one) => (
            <option key={one} value={one}>
              {CLEARANCE_PRESETS[one].label}
            </option>
          ))}
          {preset === null && <option value="hand">By hand</option>}
        </select>
        <Popover.Root>
          <Popover.Trigger aria-label={`Clearance of ${name} in detail`} className={fieldClass}>
            Detail
          </Popover.Trigger>
          <Popover.Portal>
            <Popover.Content
              align="start"
              aria-label={`Clearance of ${name} in detail`}
              sideOffset={4}
              className="z-40 w-72 space-y-2 border border-soft bg-sheet p-3 shadow-xl"
            >
              {USES.map((use) => (
                <label key={use} className="flex items-center gap-2">
                  <input
                    type="checkbox"
                    checked={clearance[use]}
                    onChange={(event) => onChange({ ...clearance, [use]: event.target.checked })}
                  />
                  {USE_WORDS[use]}
                </label>
              ))}
              <label className="block text-sm text-soft">
                Holds until
                <input
                  type="date"
                  className={`${fieldClass} block w-full text-ink`}
                  value={clearance.expiresOn ?? ''}
                  onChange={({ target }) => onChange(withOptional(clearance, 'expiresOn', target.value))}
                />
              </label>
              <label className="block text-sm text-soft">
                Note
                <textarea
                  rows={2}
                  maxLength={500}
                  className={`${fieldClass} block w-full text-ink`}
                  defaultValue={clearance.note ?? ''}
                  onBlur={({ target }) =>
                    target.value !== (clearance.note ?? '') &&
                    onChange(withOptional(clearance, 'note', target.value))
                  }
                />
              </label>
            </Popover.Content>
          </Popover.Portal>
        </Popover.Root>
      </div>
      <span className={`block text-xs ${expired ? 'font-semibold text-clay' : 'text-soft'}`}>
        {expired ? 'expired: nothing is allowed' : allowed.length === 0 ? 'nowhere' : allowed.join(', ')}
      </span>
      {clearance.expiresOn && (
        <span className={`block text-xs ${isSoon || expired ? 'font-semibold text-clay' : 'text-soft'}`}>
          {expired ? 'ended ' : 'until '}
          {formatDay(clearance.expiresOn)}
          {isSoon && `, ${left === 0 ? 'the last day' : left === 1 ? '1 day left' : `${left} days left`}`}
        </span>
      )}
    </div>
  );
}

function withOptional(clearance: Clearance, key: 'note' | 'expiresOn', value: string): Clearance {
  const { [key]: _, ...rest } = clearance;
  return value === '' ? rest : { ...rest, [key]: value };
}
