import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { CheckPlan, PlannedFile } from '../../../core/check/plan.ts';
import type { Check } from '../../../core/check/records.ts';
import { USE_WORDS } from '../../../core/setup/clearance.ts';
import { listed } from '../../../core/words/figures.ts';
import { planFor, useMediaFolder } from '../../api/checks.ts';
import { mediaPath, uploadMedia, useMedia } from '../../api/media.ts';
import { useSetupList } from '../../api/setups.ts';
import { fieldClass, ProgressBar, RemoveButton } from '../../parts/controls.tsx';
import { FileButton } from '../../parts/FileButton.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { UseToggles } from './UseToggles.tsx';

interface PlanProps {
  plan: CheckPlan;
  onPlan: (plan: CheckPlan) => void;
}

/** Files that must not be in the recording, music above all; and the setup whose clearances fill in the whole page. */
export function OtherSounds({ check, plan, onPlan }: PlanProps & { check: Check }) {
  const add = (file: Omit<PlannedFile, 'notFor'>) => {
    if (plan.files.some(({ place }) => place.kind === file.place.kind && place.path === file.place.path))
      return;
    onPlan({ ...plan, files: [...plan.files, { ...file, notFor: ['vod', 'upload'] }] });
  };
  return (
    <section aria-label="Other sounds">
      <h2 className="border-b-2 border-ink pb-1 font-title text-xl">Other sounds to look for</h2>
      {(plan.files.length > 0 || plan.unknown.length > 0) && (
        <ul className="text-sm" aria-label="Other sounds">
          {plan.files.map((file, at) => (
            <li
              key={`${file.place.kind} ${file.place.path}`}
              className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule py-1.5"
            >
              <span className="min-w-0 flex-1 break-words">
                <strong>{file.name}</strong>{' '}
                <span className="text-xs text-soft">
                  {file.place.kind === 'media'
                    ? 'one of Northfen’s recordings'
                    : `media folder: ${file.place.path}`}
                </span>
              </span>
              <span className="text-xs text-soft">not allowed for</span>
              <UseToggles
                value={file.notFor}
                label={`${file.name} is not allowed for`}
                tone="not"
                onChange={(notFor) =>
                  onPlan({
                    ...plan,
                    files: plan.files.map((one, i) => (i === at ? { ...one, notFor } : one)),
                  })
                }
              />
              <RemoveButton
                label={`Remove ${file.name}`}
                onClick={() => onPlan({ ...plan, files: plan.files.filter((_, i) => i !== at) })}
              />
            </li>
          ))}
          {plan.unknown.map(({ name, notFor }) => (
            <li key={name} className="border-b border-rule py-1.5">
              <strong>{name}</strong> is not allowed for {listed(notFor.map((use) => USE_WORDS[use]))}, but
              cannot be checked: no track carries it alone, and its source has no recording.
            </li>
          ))}
        </ul>
      )}
      <div className="flex flex-wrap items-center gap-x-5 gap-y-2 py-2 text-sm">
        <UploadMusic onAdd={add} />
        <OwnRecording plan={plan} onAdd={add} />
        <FromFolder onAdd={add} />
        <FromSetup check={check} plan={plan} onPlan={onPlan} />
      </div>
    </section>
  );
}

type OnAdd = (file: Omit<PlannedFile, 'notFor'>) => void;

function UploadMusic({ onAdd }: { onAdd: OnAdd }) {
  const client = useQueryClient();
  const notify = useNotify();
  const [share, setShare] = useState<number | null>(null);
  const take = async (files: File[]) => {
    for (const file of files) {
      setShare(0);
      try {
        const media = await uploadMedia(file, { onProgress: setShare });
        onAdd({ name: media.name, place: { kind: 'media', path: mediaPath(media) } });
        await client.invalidateQueries({ queryKey: ['media'] });
      } catch (error) {
        notify('trouble', (error as Error).message);
      }
    }
    setShare(null);
  };
  return (
    <span className="flex items-center gap-2">
      <FileButton
        label="Music that must not be in it"
        accept="audio/*,video/*,.flac,.wav"
        disabled={share !== null}
        onFiles={(files) => void take(files)}
      >
        Add a music file
      </FileButton>
      {share !== null && (
        <span className="w-24">
          <ProgressBar share={share} label="Uploading music" />
        </span>
      )}
    </span>
  );
}

function OwnRecording({ plan, onAdd }: { plan: CheckPlan; onAdd: OnAdd }) {
  const media = useMedia();
  const taken = new Set(plan.files.map(({ place }) => place.path));
  const left = (media.data ?? []).filter((one) => !taken.has(mediaPath(one)));
  if (left.length === 0) return null;
  return (
    <select
      aria-label="Add one of Northfen’s recordings"
      className={fieldClass}
      value=""
      onChange={(event) => {
        const chosen = left.find(({ id }) => id === event.target.value);
        if (chosen) onAdd({ name: chosen.name, place: { kind: 'media', path: mediaPath(chosen) } });
      }}
    >
      <option value="">add one of Northfen’s recordings …</option>
      {left.map(({ id, name }) => (
        <option key={id} value={id}>
          {name}
        </option>
      ))}
    </select>
  );
}

/** A file of the media folder, or a folder of it with all that it holds. */
function FromFolder({ onAdd }: { onAdd: OnAdd }) {
  const folder = useMediaFolder();
  const files = folder.data?.files ?? [];
  if (files.length === 0) return null;
  const folders = [
    ...new Set(
      files.flatMap(({ path }) =>
        path
          .split('/')
          .slice(0, -1)
          .map((_, at, parts) => parts.slice(0, at + 1).join('/')),
      ),
    ),
  ].sort();
  return (
    <select
      aria-label="Add from the media folder"
      className={`${fieldClass} max-w-64`}
      value=""
      onChange={(event) => {
        const path = event.target.value;
        if (path) onAdd({ name: path.slice(path.lastIndexOf('/') + 1), place: { kind: 'folder', path } });
      }}
    >
      <option value="">add from the media folder …</option>
      {folders.map((path) => (
        <option key={path} value={path}>
          all in {path}
        </option>
      ))}
      {files.slice(0, 500).map(({ path }) => (
        <option key={path}>{path}</option>
      ))}
    </select>
  );
}

function FromSetup({ check, plan, onPlan }: PlanProps & { check: Check }) {
  const setups = useSetupList();
  const notify = useNotify();
  return (
    <label className="flex items-center gap-2">
      <span className="text-soft">Fill in by</span>
      <select
        aria-label="Fill in by a setup"
        className={fieldClass}
        value={plan.setupId ?? ''}
        onChange={(event) =>
          void planFor(check.id, event.target.value || null).then(onPlan, (error: Error) =>
            notify('trouble', error.message),
          )
        }
      >
        <option value="">what the tracks seem to carry</option>
        {setups.data?.map(({ id, name }) => (
          <option key={id} value={id}>
            the setup {name}
          </option>
        ))}
      </select>
    </label>
  );
}
