import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { matchFiles } from '../../../core/setup/matchFiles.ts';
import { mediaPath, uploadMedia } from '../../api/media.ts';
import { formatBytes } from '../../format.ts';
import { Button, fieldClass, ProgressBar } from '../../parts/controls.tsx';
import { Sheet } from '../../parts/Sheet.tsx';
import { useSetup } from '../../setupContext.tsx';

/** Where one of several files is: waiting, on its way, with its source, or refused. */
type Outcome = { state: 'sending'; share: number } | { state: 'done' } | { state: 'failed'; message: string };

/**
 * Takes files that are dropped anywhere on Sources, shows which source each would go to, and uploads them once somebody says so.
 */
export function DropFiles() {
  const [files, setFiles] = useState<File[] | null>(null);
  const [isOver, setOver] = useState(false);
  useEffect(() => {
    const hasFiles = (event: DragEvent) => event.dataTransfer?.types.includes('Files') ?? false;
    const over = (event: DragEvent) => {
      if (!hasFiles(event)) return;
      event.preventDefault();
      setOver(true);
    };
    const leave = (event: DragEvent) => {
      if (event.relatedTarget === null) setOver(false);
    };
    const drop = (event: DragEvent) => {
      setOver(false);
      if (!hasFiles(event)) return;
      event.preventDefault();
      const dropped = [...(event.dataTransfer?.files ?? [])];
      if (dropped.length > 0) setFiles(dropped);
    };
    window.addEventListener('dragover', over);
    window.addEventListener('dragleave', leave);
    window.addEventListener('drop', drop);
    return () => {
      window.removeEventListener('dragover', over);
      window.removeEventListener('dragleave', leave);
      window.removeEventListener('drop', drop);
    };
  }, []);
  return (
    <>
      {isOver && (
        <p className="pointer-events-none fixed inset-4 z-30 grid place-items-center border-4 border-dashed border-water bg-paper/85 font-title text-2xl">
          Drop recordings here: you will see which source each goes to
        </p>
      )}
      {files && <DroppedSheet files={files} onClose={() => setFiles(null)} />}
    </>
  );
}

function DroppedSheet({ files, onClose }: { files: File[]; onClose: () => void }) {
  const { setup, actions } = useSetup();
  const client = useQueryClient();
  const [targets, setTargets] = useState(() =>
    matchFiles(
      files.map(({ name }) => name),
      setup.sources,
    ),
  );
  const [outcomes, setOutcomes] = useState<(Outcome | undefined)[]>(() => files.map(() => undefined));
  const [abort, setAbort] = useState<AbortController | null>(null);
  useEffect(() => () => abort?.abort(), [abort]);
  const set = (at: number, outcome: Outcome) =>
    setOutcomes((all) => all.map((one, index) => (index === at ? outcome : one)));
  const chosen = targets.filter((one) => one !== null);
  const hasTwice = new Set(chosen).size < chosen.length;
  const isDone =
    outcomes.length > 0 && targets.every((one, at) => one === null || outcomes[at]?.state === 'done');

  const send = async () => {
    const stop = new AbortController();
    setAbort(stop);
    for (const [at, file] of files.entries()) {
      const id = targets[at];
      if (id === null || outcomes[at]?.state === 'done' || stop.signal.aborted) continue;
      try {
        const onProgress = (share: number) => set(at, { state: 'sending', share });
        const added = await uploadMedia(file, { signal: stop.signal, onProgress });
        await client.invalidateQueries({ queryKey: ['media'] });
        actions.edit({ edit: 'updateSource', id, values: { media: { path: mediaPath(added) } } });
        set(at, { state: 'done' });
      } catch (error) {
        set(at, { state: 'failed', message: (error as Error).message });
      }
    }
    setAbort(null);
  };

  return (
    <Sheet
      title={files.length === 1 ? 'A recording was dropped' : `${files.length} recordings were dropped`}
      onClose={onClose}
    >
      <p className="mb-2 text-soft">Guessed by name. Choose another source where the guess is wrong.</p>
      <ul className="border-t border-rule">
        {files.map((file, at) => (
          <li key={`${at} ${file.name}`} className="border-b border-rule py-1.5">
            <span className="flex flex-wrap items-center justify-between gap-2">
              <span className="min-w-0 flex-1 truncate">
                {file.name} <span className="text-xs text-soft">{formatBytes(file.size)}</span>
              </span>
              <select
                aria-label={`Source of ${file.name}`}
                className={fieldClass}
                value={targets[at] ?? ''}
                disabled={abort !== null || outcomes[at]?.state === 'done'}
                onChange={(event) =>
                  setTargets((all) =>
                    all.map((one, index) => (index === at ? event.target.value || null : one)),
                  )
                }
              >
                <option value="">leave it out</option>
                {setup.sources.map(({ id, name }) => (
                  <option key={id} value={id}>
                    {name}
                  </option>
                ))}
              </select>
            </span>
            <OutcomeLine outcome={outcomes[at]} name={file.name} />
          </li>
        ))}
      </ul>
      {hasTwice && (
        <p className="pt-2 text-sm text-clay">Two files go to one source; only one can be its recording.</p>
      )}
      <div className="flex gap-2 pt-3">
        {isDone ? (
          <Button weight="main" onClick={onClose}>
            Close
          </Button>
        ) : (
          <>
            <Button
              weight="main"
              disabled={chosen.length === 0 || hasTwice || abort !== null}
              onClick={() => void send()}
            >
              {chosen.length === 1 ? 'Upload 1 recording' : `Upload ${chosen.length} recordings`}
            </Button>
            <Button
              onClick={() => {
                abort?.abort();
                onClose();
              }}
            >
              Cancel
            </Button>
          </>
        )}
      </div>
    </Sheet>
  );
}

function OutcomeLine({ outcome, name }: { outcome: Outcome | undefined; name: string }) {
  if (!outcome) return null;
  if (outcome.state === 'sending')
    return (
      <span className="mt-1 flex items-center gap-2 text-xs text-soft">
        <ProgressBar share={outcome.share} label={`Uploading ${name}`} />
        {outcome.share < 1 ? 'uploading' : 'reading'}
      </span>
    );
  return outcome.state === 'done' ? (
    <span className="block text-xs text-moss">there</span>
  ) : (
    <span role="alert" className="block text-xs text-clay">
      {outcome.message}
    </span>
  );
}
