import { type QueryClient, useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import type { Check, CheckSummary } from '../../core/check/records.ts';
import type { Delivery } from '../../core/deliver/records.ts';
import { announceRevision, retryAll } from './setups.ts';
import type { Job } from './types.ts';

/** The name of the line in which windows wait to be the one that listens to the server, and of the channel to the others. */
const EVENTS = 'northfen.events';

/** What happens on the server, by its name, with what is told of it; `opened` when it can be listened to from now on. */
interface ServerEvents {
  opened: null;
  setup: { id: string; revision: number };
  setups: null;
  media: null;
  presets: null;
  room: { setupId: string };
  takes: { setupId: string };
  job: Job;
  check: CheckSummary;
  checks: null;
  delivery: Delivery;
  deliveries: { checkId: string };
  marks: { ownerId: string };
  mediaFolder: null;
}
type ServerEvent = {
  [Name in keyof ServerEvents]: { name: Name; data: ServerEvents[Name] };
}[keyof ServerEvents];
const NAMES = [
  'setup',
  'setups',
  'media',
  'presets',
  'room',
  'takes',
  'job',
  'check',
  'checks',
  'delivery',
  'deliveries',
  'marks',
  'mediaFolder',
] as const;

/** What is measured belongs to recordings and revisions that never change, and takes long: it is not asked for again. */
const MEASURED = new Set(['covariances', 'calibration', 'destinations', 'with and without']);

/**
 * Listens to what happens on the server (other windows, renders) and brings what is shown up to date. One window listens
 * for all, since a browser has few connections to one server; when it is closed, the next one does.
 */
export function useServerEvents(): void {
  const client = useQueryClient();
  useEffect(() => {
    const take = (event: ServerEvent) => bringUpToDate(client, event);
    const channel = new BroadcastChannel(EVENTS);
    channel.onmessage = ({ data }: MessageEvent<ServerEvent>) => take(data);
    const closed = new AbortController();
    const listen = () =>
      listenUntil(closed.signal, (event) => {
        take(event);
        channel.postMessage(event);
      });
    navigator.locks.request(EVENTS, { signal: closed.signal }, listen).catch(() => {});
    return () => {
      closed.abort();
      channel.close();
    };
  }, [client]);
}

/** Passes on what the server tells, until the signal says that it is enough. */
function listenUntil(signal: AbortSignal, pass: (event: ServerEvent) => void): Promise<void> {
  const events = new EventSource('/api/events');
  events.onopen = () => pass({ name: 'opened', data: null });
  for (const name of NAMES)
    events.addEventListener(name, ({ data }: MessageEvent<string>) =>
      pass({ name, data: JSON.parse(data) } as ServerEvent),
    );
  return new Promise((resolve) => {
    signal.addEventListener('abort', () => {
      events.close();
      resolve();
    });
  });
}

function bringUpToDate(client: QueryClient, event: ServerEvent): void {
  const refresh = (...queryKey: string[]) => void client.invalidateQueries({ queryKey });
  switch (event.name) {
    case 'opened':
      retryAll();
      void client.invalidateQueries({ predicate: ({ queryKey }) => !MEASURED.has(String(queryKey[0])) });
      break;
    case 'setup':
      refresh('history', event.data.id);
      announceRevision(client, event.data.id, event.data.revision);
      break;
    case 'room':
      refresh('room', event.data.setupId);
      break;
    case 'takes':
      refresh('takes', event.data.setupId);
      refresh('take');
      break;
    case 'job':
      takeJob(client, event.data);
      break;
    case 'check':
      takeCheck(client, event.data);
      break;
    case 'delivery':
      takeDelivery(client, event.data);
      break;
    case 'deliveries':
      refresh('deliveries', event.data.checkId);
      refresh('deliveries', 'newest');
      break;
    case 'marks':
      refresh('marks', event.data.ownerId);
      break;
    default:
      refresh(event.name);
  }
}

function takeJob(client: QueryClient, job: Job): void {
  client.setQueryData<Job[]>(['jobs', job.setupId], (jobs = []) =>
    jobs.some((one) => one.id === job.id)
      ? jobs.map((one) => (one.id === job.id ? job : one))
      : [job, ...jobs],
  );
  if (job.state === 'done') void client.invalidateQueries({ queryKey: ['takes', job.setupId] });
}

function takeDelivery(client: QueryClient, delivery: Delivery): void {
  for (const list of [delivery.checkId, 'newest'])
    client.setQueryData<Delivery[]>(['deliveries', list], (all) =>
      all?.some(({ id }) => id === delivery.id)
        ? all.map((one) => (one.id === delivery.id ? delivery : one))
        : all && [delivery, ...all],
    );
}

/** What is found of a recording is asked for when its work has ended; until then only how far it is. */
function takeCheck(client: QueryClient, check: CheckSummary): void {
  client.setQueryData<CheckSummary[]>(['checks'], (all = []) =>
    all.some(({ id }) => id === check.id)
      ? all.map((one) => (one.id === check.id ? check : one))
      : [check, ...all],
  );
  client.setQueryData<Check>(['check', check.id], (known) => known && { ...known, ...check });
  if (check.state !== 'running') void client.invalidateQueries({ queryKey: ['check', check.id] });
}
