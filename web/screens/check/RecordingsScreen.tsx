import { useEffect, useMemo, useState } from 'react';
import { addFromFolder, useChecks, useMediaFolder, watchFolder } from '../../api/checks.ts';
import { useSetupList } from '../../api/setups.ts';
import { Blank, Button, fieldClass, ScreenTitle } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { BringIn } from './BringIn.tsx';
import { RecordingTable } from './RecordingTable.tsx';
import { type ListView, linesOf, SHOWN_ALONE, shownLines } from './recordingList.ts';

/** All recordings to check: bring them in, see how each stands, open one. */
export function RecordingsScreen() {
  const checks = useChecks();
  const folder = useMediaFolder();
  const setups = useSetupList();
  const notify = useNotify();
  const [setupId, setSetup] = useState<string | null>(null);
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
  const run = (work: Promise<unknown>) => void work.catch((error: Error) => notify('trouble', error.message));
  return (
    <main className="mx-auto max-w-5xl space-y-3 px-5 py-4 narrow:px-3">
      <ScreenTitle title="Recordings">
        Bring in what you recorded, with whatever you record with. Northfen reads every track, and says
        whether music or friends are where they must not be.
      </ScreenTitle>
      <BringIn setupId={setupId} />
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2 text-sm">
        <label className="flex items-center gap-2">
          New ones are checked against
          <select
            className={fieldClass}
            value={setupId ?? ''}
            onChange={(event) => setSetup(event.target.value || null)}
          >
            <option value="">no setup: I say it myself</option>
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
              checked={folder.data.watch.on}
              onChange={(event) => run(watchFolder({ on: event.target.checked, setupId }))}
            />
            Bring in what is new in the media folder by itself
          </label>
        )}
      </div>
      <FolderWords path={folder.data?.path} trouble={folder.data?.trouble} isCut={folder.data?.isCut} />
      {checks.error && (
        <Blank level={2} title="The recordings cannot be shown">
          <p>{checks.error.message}</p>
          <Button onClick={() => checks.refetch()}>Try again</Button>
        </Blank>
      )}
      {checks.isPending && <p className="text-soft">Opening …</p>}
      {checks.data && lines.length === 0 && (
        <p className="py-8 text-soft">Nothing is here yet. Choose a recording, or drop one above.</p>
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
            {notIn.length > 0 && (
              <Button className="ml-auto" onClick={() => run(addFromFolder(notIn, setupId))}>
                {setupId === null ? 'Bring in' : 'Check'}{' '}
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
        ? 'Start Northfen with NORTHFEN_MEDIA_DIR set to the folder of your recordings, and they are listed here without being copied.'
        : `The media folder is ${path}. Its files are only read.${isCut ? ' It has more than 5,000 recordings; the rest is not listed.' : ''}`}
    </p>
  );
}
