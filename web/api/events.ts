import { useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import { isSaving } from './setups.ts';
import type { Job, StoredSetup } from './types.ts';

/** Listens to what happens on the server (other windows, renders) and brings what is shown up to date. */
export function useServerEvents(): void {
  const client = useQueryClient();
  useEffect(() => {
    const events = new EventSource('/api/events');
    const on = <T>(name: string, handle: (data: T) => void) =>
      events.addEventListener(name, (event) => handle(JSON.parse((event as MessageEvent<string>).data) as T));
    const refresh = (...queryKey: string[]) => void client.invalidateQueries({ queryKey });

    on<{ id: string; revision: number }>('setup', ({ id, revision }) => {
      const known = client.getQueryData<StoredSetup>(['setup', id]);
      if (known && known.revision < revision && !isSaving(id)) refresh('setup', id);
    });
    on('setups', () => refresh('setups'));
    on('media', () => refresh('media'));
    on('presets', () => refresh('presets'));
    on<{ setupId: string }>('room', ({ setupId }) => refresh('room', setupId));
    on<{ setupId: string }>('takes', ({ setupId }) => {
      refresh('takes', setupId);
      refresh('take');
    });
    on<Job>('job', (job) => {
      client.setQueryData<Job[]>(['jobs', job.setupId], (jobs = []) =>
        jobs.some((one) => one.id === job.id)
          ? jobs.map((one) => (one.id === job.id ? job : one))
          : [job, ...jobs],
      );
      if (job.state === 'done') refresh('takes', job.setupId);
    });
    events.onopen = () => refresh();
    return () => events.close();
  }, [client]);
}
