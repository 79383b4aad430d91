import { useEffect, useMemo } from 'react';
import { Link, Outlet, useParams } from 'react-router';
import { useServerEvents } from './api/events.ts';
import { useSetupActions, useStoredSetup } from './api/setups.ts';
import { Header } from './Header.tsx';
import { HeardProvider } from './heard.tsx';
import { Blank, Button } from './parts/controls.tsx';
import { isTyping } from './parts/isTyping.ts';
import { RehearsalProvider } from './rehearsal.tsx';
import { SetupContext } from './setupContext.tsx';

/** The frame round every screen of a setup: loads it, shows the header, and keeps it up to date. */
export function SetupFrame() {
  const { setupId = '' } = useParams();
  const query = useStoredSetup(setupId);
  const actions = useSetupActions(setupId);
  useServerEvents();
  const stored = query.data;
  const open = useMemo(
    () => (stored ? { ...stored, actions, path: `/setups/${setupId}` } : null),
    [stored, actions, setupId],
  );

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || isTyping(event.target)) return;
      const key = event.key.toLowerCase();
      if (key === 'z' && !event.shiftKey) actions.undo();
      else if (key === 'y' || (key === 'z' && event.shiftKey)) actions.redo();
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [actions]);

  useEffect(() => {
    document.title = stored ? `${stored.setup.name} – Northfen` : 'Northfen';
  }, [stored]);

  if (query.isPending) {
    return (
      <Blank title="Opening the setup …">
        <p className="text-soft">One moment.</p>
      </Blank>
    );
  }
  if (!open) {
    return (
      <Blank title="This setup cannot be opened">
        <p>{query.error?.message}</p>
        <div className="flex gap-3">
          <Button onClick={() => query.refetch()}>Try again</Button>
          <Link to="/" className="self-center text-water underline">
            To all setups
          </Link>
        </div>
      </Blank>
    );
  }
  return (
    <SetupContext value={open}>
      <RehearsalProvider key={setupId}>
        <HeardProvider>
          <div className="grid h-full grid-rows-[auto_minmax(0,1fr)] overflow-clip">
            <Header />
            <main className="relative min-h-0 overflow-auto">
              <Outlet />
            </main>
          </div>
        </HeardProvider>
      </RehearsalProvider>
    </SetupContext>
  );
}
