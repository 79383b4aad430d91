import { trackLimitOf } from '../../../core/reach/destinations.ts';
import type { Edit } from '../../../core/setup/edits.ts';
import type { Setup } from '../../../core/setup/schema.ts';
import { fieldClass } from '../../parts/controls.tsx';
import { Sheet } from '../../parts/Sheet.tsx';

/** The recorder: how many tracks it has, and whether the VOD's track is to be in the file as well. */
export function RecorderDialog({
  setup,
  onEdit,
  onClose,
}: {
  setup: Setup;
  onEdit: (edit: Edit) => void;
  onClose: () => void;
}) {
  const set = (values: Setup['recorder']) => onEdit({ edit: 'setRecorder', values });
  return (
    <Sheet title="The recorder" onClose={onClose} live>
      <div className="space-y-3">
        <label className="flex items-center gap-3">
          It records up to
          <select
            className={fieldClass}
            value={trackLimitOf(setup)}
            onChange={(event) => set({ trackLimit: Number(event.target.value) })}
          >
            {Array.from({ length: 32 }, (_, index) => (
              <option key={index} value={index + 1}>
                {index + 1}
              </option>
            ))}
          </select>
          tracks; {setup.tracks.length} are on the sheet.
        </label>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={setup.recorder.recordVod ?? false}
            onChange={(event) => set({ recordVod: event.target.checked })}
          />
          The VOD’s track is to be in the local file as well
        </label>
      </div>
    </Sheet>
  );
}
