import { type QueryClient, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useMemo, useSyncExternalStore } from 'react';
import type { StartFrom } from '../../core/demo/startNames.ts';
import type { HistoryEntry } from '../../core/records.ts';
import type { Edit } from '../../core/setup/edits.ts';
import type { Setup } from '../../core/setup/schema.ts';
import { afterPaint } from '../parts/afterPaint.ts';
import { useNotify } from '../parts/notices.tsx';
import { ApiError, request } from './client.ts';
import { changeOf, EditQueue, type QueueState } from './editQueue.ts';
import type { SetupSummary, StoredSetup } from './types.ts';
import { adoptLeft, browserStore, type Change, holdWindow } from './unsaved.ts';
import { asWindow, isOpened, openedAt, WINDOW_ID } from './window.ts';

holdWindow(WINDOW_ID);

export function useSetupList() {
  return useQuery({ queryKey: ['setups'], queryFn: () => request<SetupSummary[]>('/setups') });
}

export function useStoredSetup(id: string) {
  const client = useQueryClient();
  return useQuery({
    queryKey: ['setup', id],
    queryFn: async () => queueFor(client, id).take(await fetchSetup(id)),
  });
}

/** Returns a setup as the server has it. */
async function fetchSetup(id: string): Promise<StoredSetup> {
  if (!isOpened(id)) openedAt(id, (await request<StoredSetup>(`/setups/${id}`)).revision);
  return request<StoredSetup>(`/setups/${id}?${asWindow(id)}`);
}

/** The edits of a setup, the newest first. */
export function useHistory(id: string, isShown: boolean) {
  return useQuery({
    queryKey: ['history', id],
    queryFn: () => request<HistoryEntry[]>(`/setups/${id}/history`),
    enabled: isShown,
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
  /** Takes back everything that came after an edit of the history (all, for 0). */
  back(to: number): void;
  /** Sends what waits at once. */
  retry(): void;
}

/** Returns the actions on a setup, the same object for the same setup. */
export function useSetupActions(id: string): SetupActions {
  const client = useQueryClient();
  const notify = useNotify();
  useEffect(() => {
    refused.add(notify);
    return () => {
      refused.delete(notify);
    };
  }, [notify]);
  return useMemo(() => {
    const queue = queueFor(client, id);
    const add = (kind: 'undo' | 'redo') => queue.add({ id: crypto.randomUUID(), kind, label: kind });
    return {
      edit(wanted) {
        const known = client.getQueryData<StoredSetup>(['setup', id]);
        if (!known) return;
        try {
          queue.add(changeOf(known.setup, typeof wanted === 'function' ? wanted(known.setup) : wanted));
        } catch (error) {
          notify('trouble', error instanceof Error ? error.message : String(error));
        }
      },
      undo: () => add('undo'),
      redo: () => add('redo'),
      back: (to) => queue.add({ id: crypto.randomUUID(), kind: 'back', to, label: 'go back' }),
      retry: () => queue.retry(),
    };
  }, [client, id, notify]);
}

/** How the changes of a setup stand. */
export function useQueueState(id: string): QueueState {
  const client = useQueryClient();
  const queue = queueFor(client, id);
  return useSyncExternalStore(queue.subscribe, () => queue.state);
}

const queues = new Map<string, EditQueue>();
/** Who tells people of changes that were refused. */
const refused = new Set<(kind: 'trouble', text: string) => void>();

function queueFor(client: QueryClient, id: string): EditQueue {
  const known = queues.get(id);
  if (known) return known;
  const server = {
    send: (change: Change, revision: number) =>
      request<StoredSetup>(`/setups/${id}/${PATHS[change.kind]}?${asWindow(id)}`, {
        method: 'POST',
        json: { revision, operation: change.id, ...bodyOf(change) },
      }),
    fetch: () => fetchSetup(id),
  };
  const tellAll = (message: string) => {
    for (const tell of refused) tell('trouble', message);
  };
  const queue = new EditQueue(client, id, server, browserStore(WINDOW_ID), tellAll, afterPaint);
  queues.set(id, queue);
  void adoptLeft(id, WINDOW_ID).then((changes) => queue.adopt(changes));
  return queue;
}

const PATHS = { edit: 'edits', undo: 'undo', redo: 'redo', back: 'back' };

function bodyOf(change: Change): object {
  if (change.kind === 'edit') return { edit: change.edit };
  return change.kind === 'back' ? { edit: change.to } : {};
}

/** Tells whether changes of a setup are not with the server yet. */
export function isSaving(id: string): boolean {
  return queues.get(id)?.busy ?? false;
}

/** Sends what waits, in every setup, at once: the server is there again. */
export function retryAll(): void {
  for (const queue of queues.values()) queue.retry();
}

/** Takes in that the server has a revision of a setup, and fetches it when it is newer than what is shown. */
export function announceRevision(client: QueryClient, id: string, revision: number): void {
  queueFor(client, id).announce(revision);
}

/** Waits until every change of a setup has arrived at the server. @throws {ApiError} when the server cannot take them now */
export async function settled(id: string): Promise<void> {
  for (const queue = queues.get(id); queue?.busy; ) {
    if (queue.state.status === 'waiting')
      throw new ApiError(0, 'offline', queue.state.reason ?? 'Your changes are not saved yet.');
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}

export function startSetup(from: StartFrom, name?: string): Promise<StoredSetup> {
  return request('/setups', { method: 'POST', json: { from, name } });
}

export function importSetup(text: string): Promise<StoredSetup> {
  return request('/setups/import', { method: 'POST', body: text, headers: { 'Content-Type': 'text/plain' } });
}

/** Renames a setup that need not be open. */
export async function renameSetup({ id, revision }: SetupSummary, name: string): Promise<StoredSetup> {
  return request(`/setups/${id}/edits?${asWindow(id)}`, {
    method: 'POST',
    json: { revision, edit: { edit: 'renameSetup', name } },
  });
}

export function copySetup(id: string): Promise<StoredSetup> {
  return request(`/setups/${id}/copy`, { method: 'POST' });
}

export function deleteSetup(id: string): Promise<void> {
  return request(`/setups/${id}`, { method: 'DELETE' });
}

export { ApiError };
