import { useVirtualizer } from '@tanstack/react-virtual';
import { clsx } from 'clsx';
import { type ReactNode, useRef } from 'react';
import { Link } from 'react-router';
import { countText } from '../../../core/words/figures.ts';
import { addFromFolder, goOnChecking, stopCheck } from '../../api/checks.ts';
import { formatBytes, formatClock, formatMoment } from '../../format.ts';
import { Button, ProgressBar } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';
import type { ListView, RecordingLine, SortBy } from './recordingList.ts';
import { VerdictWord } from './VerdictWord.tsx';

/** A line is this high (pixels); those out of sight are not drawn. */
const LINE_PX = 46;
const COLUMNS: { by: SortBy; title: string; className: string }[] = [
  { by: 'name', title: 'Name', className: '' },
  { by: 'durationS', title: 'Length', className: 'w-20 text-right' },
  { by: 'bytes', title: 'Size', className: 'w-24 text-right max-md:hidden' },
  { by: 'date', title: 'Date', className: 'w-44 max-md:hidden' },
  { by: 'words', title: 'Verdict', className: 'w-40' },
];

/** All recordings in a table that can be sorted; thousands of them, too. */
export function RecordingTable({
  lines,
  view,
  onView,
  setupId,
}: {
  lines: RecordingLine[];
  view: ListView;
  onView: (view: ListView) => void;
  /** What recordings are checked against when they are added. */
  setupId: string | null;
}) {
  const scroll = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => LINE_PX,
    overscan: 8,
    getItemKey: (at) => lines[at].key,
  });
  const items = virtual.getVirtualItems();
  const above = items[0]?.start ?? 0;
  const below = virtual.getTotalSize() - (items.at(-1)?.end ?? 0);
  return (
    <section
      ref={scroll}
      aria-label="List of recordings"
      // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is reached by keyboard
      tabIndex={0}
      className="max-h-[calc(100vh-21rem)] min-h-56 overflow-auto border-t border-rule"
    >
      <table
        className="w-full table-fixed border-collapse text-left"
        aria-label="Recordings"
        aria-rowcount={lines.length + 1}
      >
        <thead className="sticky top-0 z-10 bg-paper text-xs">
          <tr aria-rowindex={1}>
            {COLUMNS.map(({ by, title, className }) => (
              <th
                key={by}
                scope="col"
                className={clsx('pr-3 font-normal shadow-[inset_0_-1px_0_var(--soft)]', className)}
                aria-sort={view.by === by ? (view.isDown ? 'descending' : 'ascending') : 'none'}
              >
                <button
                  type="button"
                  className="min-h-6 text-soft hover:text-ink"
                  onClick={() =>
                    onView({ ...view, by, isDown: view.by === by ? !view.isDown : by !== 'name' })
                  }
                >
                  {title} {view.by === by && <span aria-hidden="true">{view.isDown ? '↓' : '↑'}</span>}
                </button>
              </th>
            ))}
            <th scope="col" className="w-24 shadow-[inset_0_-1px_0_var(--soft)]">
              <span className="sr-only">What to do</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {above > 0 && <tr style={{ height: above }} />}
          {items.map((item) => (
            <tr
              key={item.key}
              aria-rowindex={item.index + 2}
              className="border-b border-rule"
              style={{ height: LINE_PX }}
            >
              <Line line={lines[item.index]} setupId={setupId} />
            </tr>
          ))}
          {below > 0 && <tr style={{ height: below }} />}
        </tbody>
      </table>
    </section>
  );
}

function Line({ line, setupId }: { line: RecordingLine; setupId: string | null }) {
  const { check, name, path, bytes, date, durationS } = line;
  const cells = COLUMNS.map(({ className }) => className);
  const folder = path?.includes('/') ? path.slice(0, path.lastIndexOf('/')) : null;
  return (
    <>
      <Cell className={cells[0]}>
        {check ? (
          <Link
            to={`/recordings/${check.id}`}
            className="block truncate font-semibold hover:underline"
            title={name}
          >
            {name}
          </Link>
        ) : (
          <span className="block truncate" title={name}>
            {name}
          </span>
        )}
        {check?.state === 'failed' && check.message ? (
          <span className="block truncate text-xs text-clay" title={check.message}>
            {check.message.startsWith(`${name} `) ? check.message.slice(name.length + 1) : check.message}
          </span>
        ) : (
          <span className="block truncate text-xs text-soft">
            {path === null ? 'uploaded' : folder ? `media folder, ${folder}` : 'media folder'}
            {check?.trackCount ? ` · ${countText(check.trackCount, 'track')}` : ''}
          </span>
        )}
      </Cell>
      <Cell className={cells[1]}>{durationS === null ? '–' : formatClock(durationS)}</Cell>
      <Cell className={cells[2]}>{formatBytes(bytes)}</Cell>
      <Cell className={clsx(cells[3], 'text-soft')}>{formatMoment(date)}</Cell>
      <Cell className={cells[4]}>
        <State line={line} />
      </Cell>
      <Cell className="w-24">
        <Action line={line} setupId={setupId} />
      </Cell>
    </>
  );
}

function Cell({ className, children }: { className: string; children: ReactNode }) {
  return <td className={clsx('overflow-hidden pr-3', className)}>{children}</td>;
}

function State({ line: { check, words, name } }: { line: RecordingLine }) {
  if (check?.state === 'running')
    return (
      <>
        <span className="block text-xs text-soft">{words} …</span>
        <ProgressBar share={check.progress} label={`Progress of ${name}`} />
      </>
    );
  if (check?.verdict && words === check.verdict) return <VerdictWord verdict={check.verdict} />;
  return (
    <span className={words === 'failed' ? 'text-clay' : 'text-soft'} title={check?.message ?? undefined}>
      {words}
    </span>
  );
}

function Action({ line: { check, path, name }, setupId }: { line: RecordingLine; setupId: string | null }) {
  const notify = useNotify();
  const run = (work: Promise<unknown>) => void work.catch((error: Error) => notify('trouble', error.message));
  if (!check)
    return (
      <Button aria-label={`Add ${name}`} onClick={() => path !== null && run(addFromFolder([path], setupId))}>
        Add
      </Button>
    );
  if (check.state === 'running' || check.state === 'waiting')
    return (
      <Button aria-label={`Stop ${name}`} onClick={() => run(stopCheck(check.id))}>
        Stop
      </Button>
    );
  if (check.state === 'stopped' || check.state === 'failed') {
    const words = check.state === 'failed' ? 'Try again' : 'Go on';
    return (
      <Button aria-label={`${words} with ${name}`} onClick={() => run(goOnChecking(check.id))}>
        {words}
      </Button>
    );
  }
  return (
    <Link
      to={`/recordings/${check.id}`}
      aria-label={`Open ${name}`}
      className="inline-block rounded-sm border border-rule bg-sheet px-2.5 py-1 text-sm hover:border-ink"
    >
      Open
    </Link>
  );
}
