import { type QueryClient, useQuery, useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { StartFrom } from '../../core/demo/starts.ts';
import { applyEdit, describeEdit, type Edit } from '../../core/setup/edits.ts';
import type { Setup } from '../../core/setup/schema.ts';
import { useNotify } from '../parts/notices.tsx';
import { ApiError, request } from './client.ts';
import { EditQueue } from './editQueue.ts';
import type { SetupSummary, StoredSetup } from './types.ts';

export function useSetupList() {
  return useQuery({ queryKey: ['setups'], queryFn: () => request<SetupSummary[]>('/setups') });
}

export function useStoredSetup(id: string) {
  const client = useQueryClient();
  return useQuery({
    queryKey: ['setup', id],
    queryFn: async () => {
      const stored = await request<StoredSetup>(`/setups/${id}`);
      const known = client.getQueryData<StoredSetup>(['setup', id]);
      return known && (queueFor(client, id).isAhead || known.revision > stored.revision) ? known : stored;
    },
  });
}

/** What a screen can do with a setup. Each call returns at once; the screen shows the result before the server has it. */
export interface SetupActions {
  /**
   * Makes a change. Given a function, the change is made from the setup as it stands at that moment, which may be ahead
   * of what is drawn when keys are pressed fast.
   */
  edit(edit: Edit | ((setup: Setup) => Edit)): void;
  undo(): void;
  redo(): void;
}

/** Returns the actions on a setup, the same object for the same setup. */
export function useSetupActions(id: string): SetupActions {
  const client = useQueryClient();
  const notify = useNotify();
  return useMemo(() => {
    const queue = queueFor(client, id);
    const report = (error: unknown) =>
      notify('trouble', error instanceof Error ? error.message : String(error));
    const post = (path: string, body: object) =>
      queue.add(
        (revision) =>
          request<StoredSetup>(`/setups/${id}/${path}`, { method: 'POST', json: { revision, ...body } }),
        report,
      );
    return {
      edit(wanted) {
        const known = client.getQueryData<StoredSetup>(['setup', id]);
        if (!known) return;
        let edit: Edit;
        try {
          edit = typeof wanted === 'function' ? wanted(known.setup) : wanted;
          const setup = applyEdit(known.setup, edit);
          client.setQueryData<StoredSetup>(['setup', id], {
            ...known,
            setup,
            undo: describeEdit(edit, setup),
            redo: null,
          });
        } catch (error) {
          report(error);
          return;
        }
        post('edits', { edit });
      },
      undo: () => post('undo', {}),
      redo: () => post('redo', {}),
    };
  }, [client, id, notify]);
}

const queues = new Map<string, EditQueue>();

function queueFor(client: QueryClient, id: string): EditQueue {
  const queue = queues.get(id) ?? new EditQueue(client, id);
  queues.set(id, queue);
  return queue;
}

/** Tells whether changes of a setup are on their way to the server. */
export function isSaving(id: string): boolean {
  return queues.get(id)?.busy ?? false;
}

/** Takes in that the server has a revision of a setup, and fetches it when it is newer than what is shown. */
export function announceRevision(client: QueryClient, id: string, revision: number): void {
  queueFor(client, id).announce(revision);
}

/** Waits until every change of a setup has arrived at the server. */
export async function settled(id: string): Promise<void> {
  while (isSaving(id)) await new Promise((resolve) => setTimeout(resolve, 50));
}

export function startSetup(from: StartFrom, name?: string): Promise<StoredSetup> {
  return request('/setups', { method: 'POST', json: { from, name } });
}

export function importSetup(text: string): Promise<StoredSetup> {
  return request('/setups/import', { method: 'POST', body: text, headers: { 'Content-Type': 'text/plain' } });
}

export function deleteSetup(id: string): Promise<void> {
  return request(`/setups/${id}`, { method: 'DELETE' });
}

export { ApiError };
