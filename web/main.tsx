import './strictPage.ts';
import { notifyManager, QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { RouterProvider } from 'react-router';
import { keepFocus } from './parts/keepFocus.ts';
import { NoticeProvider } from './parts/notices.tsx';
import { router } from './router.tsx';
import './styles.css';

/** What was changed is drawn before the next key is looked at. */
notifyManager.setScheduler(queueMicrotask);

const client = new QueryClient({
  defaultOptions: { queries: { staleTime: 30_000, retry: 1, refetchOnWindowFocus: true } },
});

keepFocus();

createRoot(document.getElementById('root') as HTMLElement).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <NoticeProvider>
        <RouterProvider router={router} />
      </NoticeProvider>
    </QueryClientProvider>
  </StrictMode>,
);
