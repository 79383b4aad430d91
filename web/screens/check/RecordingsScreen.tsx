import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useMemo, useState } from 'react';
import type { Arrivals } from '../../../core/check/records.ts';
import { addFromFolder, changeArrivals, useChecks, useMediaFolder } from '../../api/checks.ts';
import { useSetupList } from '../../api/setups.ts';
import { Blank, Button, fieldClass, ScreenTitle } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { BringIn } from './BringIn.tsx';
import { MakeMany, Making } from './MakeMany.tsx';
import { RecordingTable } from './RecordingTable.tsx';
import { type ListView, linesOf, SHOWN_ALONE, shownLines } from './recordingList.ts';

/** All recordings to check: add some, see the verdict of each, open one. */
export function RecordingsScreen() {
  const checks = useChecks();
  const folder = useMediaFolder();
  const setups = useSetupList();
  const notify = useNotify();
  const [view, setView] = useState<ListView>({ text: '', words: '', by: 'date', isDown: true });
  useEffect(() => {
    document.title = 'Recordings – Northfen';
  }, []);
  const lines = useMemo(
    () => linesOf(checks.data ?? [], folder.data?.files ?? []),
    [checks.data, folder.data?.files],
  );
  const shown = useMemo(() => shownLines(lines, view), [lines, view]);
  const notIn = shown.flatMap(({ check, path }) => (check === null && path !== null ? [path] : []));
  const arrivals = folder.data?.arrivals ?? { setupId: null, watch: false };
  const { setupId } = arrivals;
  const client = useQueryClient();
  const change = (values: Partial<Arrivals>) =>
    run(
      changeArrivals({ ...arrivals, ...values }).then(() =>
        client.invalidateQueries({ queryKey: ['mediaFolder'] }),
      ),
    );
  const run = (work: Promise<unknown>) => void work.catch((error: Error) => notify('trouble', error.message));
  return (
    <main className="mx-auto max-w-5xl space-y-3 px-5 py-4 narrow:px-3">
      <ScreenTitle title="Recordings">
        Add what you recorded, with any program. Northfen reads every track and tells you whether music or
        friends are where they must not be.
      </ScreenTitle>
      <BringIn setupId={setupId} />
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2 text-sm">
        <label className="flex items-center gap-2">
          Check new recordings against
          <select
            className={fieldClass}
            value={setupId ?? ''}
            onChange={(event) => change({ setupId: event.target.value || null })}
          >
            <option value="">no setup</option>
            {setups.data?.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </select>
        </label>
        {folder.data?.path && (
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={arrivals.watch}
              onChange={(event) => change({ watch: event.target.checked })}
            />
            Add new files of the media folder automatically
          </label>
        )}
      </div>
      <Making nameOf={(id) => checks.data?.find((one) => one.id === id)?.name ?? 'a recording'} />
      <FolderWords path={folder.data?.path} trouble={folder.data?.trouble} isCut={folder.data?.isCut} />
      {checks.error && (
        <Blank level={2} title="The recordings cannot be shown">
          <p>{checks.error.message}</p>
          <Button onClick={() => checks.refetch()}>Try again</Button>
        </Blank>
      )}
      {checks.isPending && <p className="text-soft">Opening …</p>}
      {checks.data && lines.length === 0 && (
        <p className="py-8 text-soft">There is no recording yet. Choose one, or drop one above.</p>
      )}
      {lines.length > 0 && (
        <>
          <div className="flex flex-wrap items-center gap-2">
            <input
              type="search"
              aria-label="Find a recording"
              placeholder="Find a recording"
              className={`${fieldClass} w-56`}
              value={view.text}
              onChange={(event) => setView({ ...view, text: event.target.value })}
            />
            <select
              aria-label="Show"
              className={fieldClass}
              value={view.words}
              onChange={(event) => setView({ ...view, words: event.target.value })}
            >
              <option value="">all</option>
              {SHOWN_ALONE.map((words) => (
                <option key={words}>{words}</option>
              ))}
            </select>
            <span className="text-sm text-soft" role="status">
              {shown.length} of {lines.length}
            </span>
            <span className="ml-auto" />
            <MakeMany checks={shown.flatMap(({ check }) => (check ? [check] : []))} />
            {notIn.length > 0 && (
              <Button onClick={() => run(addFromFolder(notIn, setupId))}>
                {setupId === null ? 'Add' : 'Check'}{' '}
                {notIn.length === 1 ? '1 new file' : `all ${notIn.length} new files`}
              </Button>
            )}
          </div>
          <RecordingTable lines={shown} view={view} onView={setView} setupId={setupId} />
        </>
      )}
    </main>
  );
}

function FolderWords({
  path,
  trouble,
  isCut,
}: {
  path: string | null | undefined;
  trouble: string | null | undefined;
  isCut: boolean | undefined;
}) {
  if (path === undefined) return null;
  if (trouble)
    return (
      <p role="alert" className="text-sm text-clay">
        {trouble}
      </p>
    );
  return (
    <p className="text-sm text-soft">
      {path === null
        ? 'To list the recordings of a folder here without copying them, start Northfen with NORTHFEN_MEDIA_DIR set to that folder.'
        : `Media folder: ${path}. Northfen only reads it.${isCut ? ' It has more than 5,000 recordings; the rest is not listed.' : ''}`}
    </p>
  );
}
