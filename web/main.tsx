import './strictPage.ts';
import { notifyManager, QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { RouterProvider } from 'react-router';
import { keepFocus } from './parts/keepFocus.ts';
import { NoticeProvider } from './parts/notices.tsx';
import { loadScreens, router } from './router.tsx';
import './styles.css';

/** What was changed is drawn before the next key is looked at. */
notifyManager.setScheduler(queueMicrotask);

const client = new QueryClient({
  defaultOptions: { queries: { staleTime: 30_000, retry: 1, refetchOnWindowFocus: true } },
});

keepFocus();
/** The other screens are loaded when the first one has been there for a while (ms). */
const LATER_MS = 4000;
setTimeout(loadScreens, LATER_MS);

createRoot(document.getElementById('root') as HTMLElement).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <NoticeProvider>
        <RouterProvider router={router} />
      </NoticeProvider>
    </QueryClientProvider>
  </StrictMode>,
);
