import { Suspense, useEffect, useMemo, useState } from 'react';
import { Link, Outlet, useLocation, useNavigate, useParams } from 'react-router';
import { useServerEvents } from './api/events.ts';
import { useSetupActions, useStoredSetup } from './api/setups.ts';
import { CausesProvider } from './causes.tsx';
import { Header } from './Header.tsx';
import { HeardProvider } from './heard.tsx';
import { KeysSheet } from './KeysSheet.tsx';
import { Blank, Button } from './parts/controls.tsx';
import { goTo } from './parts/goTo.ts';
import { isTaken, undoIsForSetup } from './parts/isTyping.ts';
import { RehearsalProvider } from './rehearsal.tsx';
import { rememberLast } from './remembered.ts';
import { SetupContext } from './setupContext.tsx';
import { GRAVEST } from './setupFindings.ts';
import { pageNameAt, stationAt } from './stations.ts';

/** The frame round every screen of a setup: loads it, shows the header, and keeps it up to date. */
export function SetupFrame() {
  const { setupId = '' } = useParams();
  const query = useStoredSetup(setupId);
  const actions = useSetupActions(setupId);
  const { pathname } = useLocation();
  const navigate = useNavigate();
  const [areKeysShown, setKeys] = useState(false);
  useServerEvents();
  const stored = query.data;
  const open = useMemo(
    () => (stored ? { ...stored, actions, path: `/setups/${setupId}` } : null),
    [stored, actions, setupId],
  );

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || !undoIsForSetup(event)) return;
      const key = event.key.toLowerCase();
      if (key === 'z' && !event.shiftKey) actions.undo();
      else if (key === 'y' || (key === 'z' && event.shiftKey)) actions.redo();
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [actions]);

  const name = stored?.setup.name;
  useEffect(() => {
    document.title = [pageNameAt(pathname), name, 'Northfen'].filter(Boolean).join(' – ');
  }, [name, pathname]);

  useEffect(() => {
    if (name !== undefined) rememberLast(setupId);
  }, [name, setupId]);

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (!/^[?gG]$/.test(event.key) || isTaken(event)) return;
      event.preventDefault();
      if (event.key === '?') setKeys(true);
      else void navigate(`/setups/${setupId}/reach${GRAVEST}`);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [navigate, setupId]);

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
        <CausesProvider>
          <HeardProvider>
            <div className="grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)] overflow-clip">
              <button type="button" className="skip-link" onClick={goTo('main')}>
                To the screen itself
              </button>
              <Header onKeys={() => setKeys(true)} />
              <main id="main" tabIndex={-1} className="relative min-h-0 overflow-auto">
                <Suspense fallback={<Blank title="Opening …" />}>
                  <Outlet />
                </Suspense>
              </main>
            </div>
            {areKeysShown && <KeysSheet station={stationAt(pathname)} onClose={() => setKeys(false)} />}
          </HeardProvider>
        </CausesProvider>
      </RehearsalProvider>
    </SetupContext>
  );
}
