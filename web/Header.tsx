import { clsx } from 'clsx';
import { AudioLines, Moon, Redo2, Sun, Undo2 } from 'lucide-react';
import { Link, NavLink, useNavigate } from 'react-router';
import { settled } from './api/setups.ts';
import { startRender, useJobs } from './api/takes.ts';
import { IN_THE_SOUND, useHeard } from './heard.tsx';
import { ListenBar } from './ListenBar.tsx';
import { Button } from './parts/controls.tsx';
import { useNotify } from './parts/notices.tsx';
import { SetupMenu } from './SetupMenu.tsx';
import { useSetup } from './setupContext.tsx';
import { knownFindings } from './setupFindings.ts';
import { STATIONS } from './stations.ts';
import { useTheme } from './theme.ts';

/** The header of every screen: the setup, the six stations, the findings, undo and redo, render. */
export function Header() {
  const { id, setup, undo, redo, actions, path } = useSetup();
  const [theme, changeTheme] = useTheme();
  return (
    <header className="flex h-14 items-center gap-3 border-b border-soft bg-paper px-5 print:hidden">
      <SetupMenu />
      <nav aria-label="Stations" className="flex flex-1 items-end justify-center self-stretch">
        {STATIONS.map((station, index) => (
          <NavLink
            key={station.path}
            to={`${path}/${station.path}`}
            className={({ isActive }) =>
              clsx(
                'flex h-full flex-col justify-center border-b-[3px] px-2.5 leading-tight',
                isActive ? 'border-water font-semibold text-water' : 'border-transparent hover:bg-sunk',
              )
            }
          >
            <span className="text-[11px] text-soft">{index + 1}</span>
            {station.name}
          </NavLink>
        ))}
      </nav>
      <ListenBar />
      <FindingsCount />
      <div className="flex items-center">
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
        <Button
          weight="quiet"
          onClick={changeTheme}
          aria-label={theme === 'light' ? 'Change to the dusk theme' : 'Change to the light theme'}
          title={theme === 'light' ? 'Dusk theme' : 'Light theme'}
        >
          {theme === 'light' ? <Moon size={17} /> : <Sun size={17} />}
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

function FindingsCount() {
  const { setup, path } = useSetup();
  const findings = knownFindings(setup);
  const stops = findings.filter((one) => one.severity === 'stop').length;
  const text =
    findings.length === 0
      ? 'no findings'
      : `${findings.length} ${findings.length === 1 ? 'finding' : 'findings'}${stops > 0 ? `, ${stops} to stop` : ''}`;
  const inSound = useHeard()?.findings.length ?? 0;
  return (
    <div className="text-sm leading-tight whitespace-nowrap">
      <Link
        to={`${path}/reach`}
        data-testid="findings-count"
        className={clsx(
          'block hover:underline',
          stops > 0 ? 'text-clay' : findings.length > 0 ? 'text-reed' : 'text-moss',
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
