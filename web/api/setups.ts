import { type QueryClient, useQuery, useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { StartFrom } from '../../core/demo/starts.ts';
import { applyEdit, describeEdit, type Edit } from '../../core/setup/edits.ts';
import type { Setup } from '../../core/setup/schema.ts';
import { useNotify } from '../parts/notices.tsx';
import { ApiError, request } from './client.ts';
import type { SetupSummary, StoredSetup } from './types.ts';

export function useSetupList() {
  return useQuery({ queryKey: ['setups'], queryFn: () => request<SetupSummary[]>('/setups') });
}

export function useStoredSetup(id: string) {
  return useQuery({ queryKey: ['setup', id], queryFn: () => request<StoredSetup>(`/setups/${id}`) });
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

type Step = (revision: number) => Promise<StoredSetup>;

/** Sends the changes of one setup one after the other, each on the revision that the one before led to. */
class EditQueue {
  private readonly client: QueryClient;
  private readonly id: string;
  private last: Promise<void> = Promise.resolve();
  private waiting = 0;
  private revision = 0;

  constructor(client: QueryClient, id: string) {
    this.client = client;
    this.id = id;
  }

  /** True while a change is on its way: the server's state is then not shown, since the screen is ahead of it. */
  get busy(): boolean {
    return this.waiting > 0;
  }

  add(step: Step, onError: (error: unknown) => void): void {
    this.waiting += 1;
    this.last = this.last.then(() => this.run(step, onError));
  }

  private async run(step: Step, onError: (error: unknown) => void): Promise<void> {
    const known = this.client.getQueryData<StoredSetup>(['setup', this.id]);
    try {
      const stored = await step(Math.max(this.revision, known?.revision ?? 0));
      this.revision = stored.revision;
      this.waiting -= 1;
      if (this.waiting === 0) this.client.setQueryData(['setup', this.id], stored);
      void this.client.invalidateQueries({ queryKey: ['setups'] });
    } catch (error) {
      this.waiting -= 1;
      this.revision = 0;
      onError(error);
      await this.client.invalidateQueries({ queryKey: ['setup', this.id] });
    }
  }
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
