import { useQuery } from '@tanstack/react-query';
import { Upload } from 'tus-js-client';
import type { CheckPlan } from '../../core/check/plan.ts';
import type { Arrivals, Check, CheckSummary, MediaFolder } from '../../core/check/records.ts';
import { ApiError, request } from './client.ts';

/** All recordings that were added, to be checked. */
export function useChecks() {
  return useQuery({ queryKey: ['checks'], queryFn: () => request<CheckSummary[]>('/checks') });
}

export function useCheck(id: string) {
  return useQuery({ queryKey: ['check', id], queryFn: () => request<Check>(`/checks/${id}`) });
}

export function useMediaFolder() {
  return useQuery({ queryKey: ['mediaFolder'], queryFn: () => request<MediaFolder>('/media-folder') });
}

/** Adds recordings of the media folder; with a setup they are checked against it. */
export function addFromFolder(paths: string[], setupId: string | null): Promise<CheckSummary[]> {
  return request('/checks', { method: 'POST', json: { paths, setupId } });
}

/** The plan that a setup makes for a recording; without one, what its tracks suggest. */
export function planFor(id: string, setupId: string | null): Promise<CheckPlan> {
  const query = setupId === null ? '' : `?${new URLSearchParams({ setup: setupId })}`;
  return request(`/checks/${id}/plan${query}`);
}

export function startCheck(id: string, plan: CheckPlan): Promise<CheckSummary> {
  return request(`/checks/${id}/check`, { method: 'POST', json: plan });
}

export function stopCheck(id: string): Promise<CheckSummary> {
  return request(`/checks/${id}/stop`, { method: 'POST' });
}

export function goOnChecking(id: string): Promise<CheckSummary> {
  return request(`/checks/${id}/go-on`, { method: 'POST' });
}

export function renameCheck(id: string, name: string): Promise<CheckSummary> {
  return request(`/checks/${id}`, { method: 'PATCH', json: { name } });
}

export function removeCheck(id: string): Promise<void> {
  return request(`/checks/${id}`, { method: 'DELETE' });
}

/** Says what happens to new recordings. */
export function changeArrivals(arrivals: Arrivals): Promise<Arrivals> {
  return request('/media-folder/arrivals', { method: 'PUT', json: arrivals });
}

/** A passage to be heard: of a track (counted from one) or of a reference, from a moment of it on (s). */
export interface Passage {
  track?: number;
  reference?: string;
  fromS: number;
  seconds: number;
}

/** The address of a passage as WAV; all passages are equally loud. */
export function passageUrl(id: string, { track, reference, fromS, seconds }: Passage): string {
  const query = new URLSearchParams({ from: fromS.toFixed(3), seconds: String(seconds) });
  if (track !== undefined) query.set('track', String(track));
  if (reference !== undefined) query.set('reference', reference);
  return `/api/checks/${id}/passage.wav?${query}`;
}

/** After a break an upload is tried again after so long (ms). */
const RETRY_MS = [0, 1000, 3000, 5000, 10_000];
/** A piece of an upload (bytes): what has arrived of it is not sent again. */
const PIECE_BYTES = 32 * 2 ** 20;

/**
 * Uploads a recording. One that broke off, also in an earlier visit, goes on where it was.
 * @param onProgress called with the share that is sent, 0 to 1
 * @throws {ApiError} when it cannot be sent
 */
export async function uploadRecording(
  file: File,
  setupId: string | null,
  { onProgress, signal }: { onProgress: (share: number) => void; signal: AbortSignal },
): Promise<void> {
  const metadata: Record<string, string> = { filename: file.name };
  if (setupId !== null) metadata.setup = setupId;
  await new Promise<void>((resolve, reject) => {
    const upload = new Upload(file, {
      endpoint: '/api/uploads',
      metadata,
      chunkSize: PIECE_BYTES,
      retryDelays: RETRY_MS,
      removeFingerprintOnSuccess: true,
      onProgress: (sent, total) => onProgress(total > 0 ? sent / total : 0),
      onSuccess: () => resolve(),
      onError: (error) => {
        const status = 'originalResponse' in error ? (error.originalResponse?.getStatus() ?? 0) : 0;
        reject(
          new ApiError(
            status,
            'upload',
            status === 0
              ? 'The upload broke off: Northfen does not answer. Choose the file again, and it goes on where it was.'
              : `The upload was refused (${status}). Is there room on the disk? Choose the file again, and it goes on where it was.`,
          ),
        );
      },
    });
    signal.addEventListener('abort', () => {
      void upload.abort();
      reject(new ApiError(0, 'cancelled', 'Stopped. Choose the file again, and it goes on where it was.'));
    });
    upload
      .findPreviousUploads()
      .then((earlier) => {
        if (earlier[0]) upload.resumeFromPreviousUpload(earlier[0]);
        upload.start();
      })
      .catch(reject);
  });
}
