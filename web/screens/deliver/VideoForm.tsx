import type { ReactNode } from 'react';
import type { Check } from '../../../core/check/records.ts';
import type { Verdict } from '../../../core/check/verification.ts';
import type { Delivery, Ingredient, Mark, UploadOrder } from '../../../core/deliver/records.ts';
import { levelled } from '../../../core/deliver/usual.ts';
import { Button, fieldClass } from '../../parts/controls.tsx';
import { SetFigure } from '../../parts/FigureField.tsx';
import { FormHead } from './FormHead.tsx';
import { MixTable } from './MixTable.tsx';
import { Pieces } from './Pieces.tsx';
import type { Clips } from './pieces.ts';

type Draft = Omit<UploadOrder, 'pieces'>;

/** The video to upload: what it is mixed of, how loud it is, which pieces of the recording. */
export function VideoForm({
  check,
  isOn,
  onIsOn,
  upload,
  onUpload,
  clips,
  onClips,
  marks,
  rescues,
}: {
  check: Check;
  isOn: boolean;
  onIsOn: (isOn: boolean) => void;
  upload: Draft;
  onUpload: (upload: Draft) => void;
  clips: Clips;
  onClips: (clips: Clips) => void;
  marks: Mark[];
  rescues: Delivery[];
}) {
  const set = (values: Partial<Draft>) => onUpload({ ...upload, ...values });
  const setTracks = (tracks: Ingredient[]) => set({ tracks });
  return (
    <section aria-label="Video to upload">
      <FormHead title="Video to upload" isOn={isOn} onIsOn={onIsOn} />
      {isOn && (
        <div className="grid gap-x-8 gap-y-4 pt-2 lg:grid-cols-[minmax(0,1fr)_20rem]">
          <div>
            <MixTable check={check} tracks={upload.tracks} rescues={rescues} onTracks={setTracks} />
            {upload.tracks.length > 1 && (
              <p className="flex flex-wrap items-center gap-3 pt-2 text-sm text-soft">
                <Button onClick={() => setTracks(levelled(check, upload.tracks))}>Balance the mix</Button>
                All voices equally loud, game and music 10 LU below them.
              </p>
            )}
          </div>
          <div className="space-y-3 text-sm">
            <Line name="Loudness">
              <SetFigure
                value={upload.targetLufs}
                label="Loudness of the upload"
                unit="LUFS"
                min={-40}
                max={-5}
                step={1}
                onChange={(value) => set({ targetLufs: value })}
              />
            </Line>
            <Line name="Peaks stay below">
              <SetFigure
                value={upload.ceilingDbtp}
                label="Peaks stay below"
                unit="dBTP"
                min={-12}
                max={0}
                onChange={(value) => set({ ceilingDbtp: value })}
              />
            </Line>
            <Line name="Fade in and out">
              <SetFigure
                value={upload.fadeS}
                label="Fade in and out"
                unit="s"
                min={0}
                max={30}
                onChange={(value) => set({ fadeS: value })}
              />
            </Line>
            <Line name="File">
              <select
                aria-label="Kind of file"
                className={fieldClass}
                value={upload.container}
                onChange={(event) => set({ container: event.target.value === 'mkv' ? 'mkv' : 'mp4' })}
              >
                <option value="mp4">MP4</option>
                <option value="mkv">MKV</option>
              </select>
            </Line>
            <Pieces check={check} clips={clips} marks={marks} onClips={onClips} />
            <EvenIf evenIf={upload.evenIf} onEvenIf={(evenIf) => set({ evenIf })} />
          </div>
        </div>
      )}
    </section>
  );
}

function Line({ name, children }: { name: string; children: ReactNode }) {
  return (
    <p className="flex items-center justify-between gap-3">
      <span className="text-soft">{name}</span>
      {children}
    </p>
  );
}

const EVEN_IF: { verdict: Exclude<Verdict, 'clean'>; words: string }[] = [
  { verdict: 'not clean', words: 'Make it even if something is in it that must not be published' },
  { verdict: 'not testable', words: 'Make it even if not everything can be checked' },
];

/** The finished video is checked; this says in so many words that it is wanted whatever comes of it. */
function EvenIf({
  evenIf,
  onEvenIf,
}: {
  evenIf: Draft['evenIf'];
  onEvenIf: (evenIf: Draft['evenIf']) => void;
}) {
  return (
    <details className="border-t border-rule pt-2" open={evenIf.length > 0}>
      <summary className="cursor-pointer">The video is kept only if its check says clean</summary>
      {EVEN_IF.map(({ verdict, words }) => (
        <label key={verdict} className="flex items-start gap-2 pt-1.5">
          <input
            type="checkbox"
            className="mt-1"
            checked={evenIf.includes(verdict)}
            onChange={(event) =>
              onEvenIf(event.target.checked ? [...evenIf, verdict] : evenIf.filter((one) => one !== verdict))
            }
          />
          {words}
        </label>
      ))}
    </details>
  );
}
