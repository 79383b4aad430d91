import { clsx } from 'clsx';
import { AudioLines, Keyboard, Redo2, Undo2 } from 'lucide-react';
import { memo } from 'react';
import { Link, NavLink, useNavigate } from 'react-router';
import { settled, useQueueState } from './api/setups.ts';
import { startRender, useJobs } from './api/takes.ts';
import { useCauses } from './causes.tsx';
import { IN_THE_SOUND, useHeard } from './heard.tsx';
import { ListenBar } from './ListenBar.tsx';
import { Button } from './parts/controls.tsx';
import { useNotify } from './parts/notices.tsx';
import { ThemeButton } from './parts/ThemeButton.tsx';
import { SetupMenu } from './SetupMenu.tsx';
import { useSetup } from './setupContext.tsx';

import { STATIONS } from './stations.ts';

/** The header of every screen: the setup, the six stations, the findings, undo and redo, render. */
export function Header({ onKeys }: { onKeys: () => void }) {
  const { id, setup, undo, redo, actions, path } = useSetup();
  return (
    <header className="flex min-h-14 items-center gap-x-3 border-b border-soft bg-paper px-5 cramped:flex-wrap cramped:px-3 cramped:pt-1.5 print:hidden">
      <SetupMenu />
      <Stations path={path} />
      <ListenBar />
      <FindingsCount />
      <Unsaved id={id} onRetry={actions.retry} />
      <div className="flex items-center cramped:ml-auto">
        <Button
          weight="quiet"
          disabled={undo === null}
          onClick={actions.undo}
          aria-label={undo ? `Undo: ${undo}` : 'Nothing to undo'}
          title={undo ? `Undo: ${undo}` : 'Nothing to undo'}
        >
          <Undo2 size={17} />
        </Button>
        <Button
          weight="quiet"
          disabled={redo === null}
          onClick={actions.redo}
          aria-label={redo ? `Redo: ${redo}` : 'Nothing to redo'}
          title={redo ? `Redo: ${redo}` : 'Nothing to redo'}
        >
          <Redo2 size={17} />
        </Button>
        <ThemeButton />
        <Button
          weight="quiet"
          onClick={onKeys}
          aria-label="All keys"
          title="All keys (?)"
          className="max-sm:hidden"
        >
          <Keyboard size={17} />
        </Button>
      </div>
      <RenderButton
        setupId={id}
        path={path}
        canRender={setup.sources.some((source) => source.media !== null)}
      />
    </header>
  );
}

/** The way to the six stations. */
const Stations = memo(function Stations({ path }: { path: string }) {
  return (
    <nav
      aria-label="Stations"
      className="flex items-end self-stretch overflow-x-auto roomy:flex-1 roomy:justify-center cramped:order-last cramped:basis-full"
    >
      {STATIONS.map((station, index) => (
        <NavLink
          key={station.path}
          to={`${path}/${station.path}`}
          className={({ isActive }) =>
            clsx(
              'flex min-h-10 flex-col justify-center border-b-[3px] px-2.5 leading-tight roomy:h-full',
              isActive ? 'border-water font-semibold text-water' : 'border-transparent hover:bg-sunk',
            )
          }
        >
          <span aria-hidden="true" className="text-[11px] text-soft cramped:hidden">
            {index + 1}
          </span>
          {station.name}
        </NavLink>
      ))}
    </nav>
  );
});

/** Says that changes are not with the server yet, and why. */
function Unsaved({ id, onRetry }: { id: string; onRetry: () => void }) {
  const { status, count, reason } = useQueueState(id);
  return (
    <div role="status" data-testid="unsaved">
      {status === 'waiting' && (
        <button
          type="button"
          onClick={onRetry}
          title={`${reason ?? ''} They are kept in this browser and sent by themselves; press to try at once.`}
          className="border-l-4 border-reed bg-sheet px-2 py-0.5 text-left text-sm leading-tight text-reed"
        >
          <strong className="block">{count === 1 ? '1 change' : `${count} changes`} not saved yet</strong>
          <span className="block text-xs">kept here, trying again …</span>
        </button>
      )}
    </div>
  );
}

function FindingsCount() {
  const { path } = useSetup();
  const { causes, open, isCurrent } = useCauses();
  const stops = causes.filter(({ finding }) => finding.severity === 'stop').length;
  const counted = isCurrent
    ? `${causes.length} ${causes.length === 1 ? 'cause' : 'causes'}`
    : `${open.length} ${open.length === 1 ? 'finding' : 'findings'}`;
  const text =
    open.length === 0
      ? 'nothing is wrong'
      : `${counted}${isCurrent && stops > 0 ? `, ${stops} to stop` : ''}`;
  const inSound = useHeard()?.findings.length ?? 0;
  return (
    <div className="text-sm leading-tight whitespace-nowrap">
      <Link
        to={`${path}/reach`}
        data-testid="findings-count"
        data-current={isCurrent}
        className={clsx(
          'block hover:underline',
          stops > 0 ? 'text-clay' : open.length > 0 ? 'text-reed' : 'text-moss',
        )}
      >
        {text}
      </Link>
      {inSound > 0 && (
        <Link
          to={`${path}/reach${IN_THE_SOUND}`}
          data-testid="heard-count"
          className="block text-reed hover:underline"
        >
          {inSound} in the sound
        </Link>
      )}
    </div>
  );
}

function RenderButton({ setupId, path, canRender }: { setupId: string; path: string; canRender: boolean }) {
  const navigate = useNavigate();
  const notify = useNotify();
  const { data: jobs } = useJobs(setupId);
  const isRunning = jobs?.some((job) => job.state === 'running') ?? false;
  return (
    <Button
      weight="main"
      disabled={isRunning || !canRender}
      title={
        canRender
          ? 'Mix and record every track, and measure what is in it'
          : 'Give a source a recording first'
      }
      onClick={() => {
        settled(setupId)
          .then(() => startRender(setupId))
          .then(() => navigate(`${path}/takes`))
          .catch((error: Error) => notify('trouble', error.message));
      }}
    >
      <AudioLines size={16} /> {isRunning ? 'Rendering …' : 'Render'}
    </Button>
  );
}
