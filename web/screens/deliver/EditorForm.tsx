import type { Check } from '../../../core/check/records.ts';
import { standingsOf } from '../../../core/deliver/usual.ts';
import { listed } from '../../../core/words/figures.ts';
import { fieldClass } from '../../parts/controls.tsx';
import { FormHead } from './FormHead.tsx';

/** What the editor gets: each track in a file, a timeline, marks, the proof. */
export function EditorForm({
  check,
  isOn,
  onIsOn,
  format,
  onFormat,
}: {
  check: Check;
  isOn: boolean;
  onIsOn: (isOn: boolean) => void;
  format: 'wav' | 'flac';
  onFormat: (format: 'wav' | 'flac') => void;
}) {
  const off = standingsOf(check).flatMap((standing, at) =>
    standing?.kind === 'holds' || standing?.kind === 'not allowed'
      ? [`${at + 1} ${check.plan?.tracks[at]?.carries ?? ''}`.trim()]
      : [],
  );
  return (
    <section aria-label="Tracks for the editor">
      <FormHead title="Tracks and timeline for the editor" isOn={isOn} onIsOn={onIsOn} />
      {isOn && (
        <div className="flex flex-wrap items-start gap-x-8 gap-y-2 pt-2 text-sm">
          <p className="max-w-xl flex-1 basis-80">
            Each track as a file, all of the same length, and a timeline (OpenTimelineIO) with the tracks
            under the picture and your marks.{' '}
            {off.length > 0
              ? `Switched off on the timeline: ${listed(off)}, and any other track in which something is found.`
              : 'Tracks with something that must not be published are switched off.'}{' '}
            You also get chapters, a list of the music that was heard, and the proof.
          </p>
          <label className="flex items-center gap-2">
            <span className="text-soft">Tracks as</span>
            <select
              className={fieldClass}
              value={format}
              onChange={(event) => onFormat(event.target.value === 'flac' ? 'flac' : 'wav')}
            >
              <option value="wav">WAV</option>
              <option value="flac">FLAC (smaller)</option>
            </select>
          </label>
        </div>
      )}
    </section>
  );
}
