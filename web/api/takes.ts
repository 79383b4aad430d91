import { useQuery } from '@tanstack/react-query';
import type { CheckSummary } from '../../core/check/records.ts';
import { request } from './client.ts';
import type { Job, Take, TakeSummary } from './types.ts';

export function useTakes(setupId: string) {
  return useQuery({
    queryKey: ['takes', setupId],
    queryFn: () => request<TakeSummary[]>(`/takes?setup=${setupId}`),
  });
}

export function useTake(id: string | undefined) {
  return useQuery({
    queryKey: ['take', id],
    queryFn: () => request<Take>(`/takes/${id}`),
    enabled: id !== undefined,
  });
}

export function useJobs(setupId: string) {
  return useQuery({
    queryKey: ['jobs', setupId],
    queryFn: () => request<Job[]>(`/setups/${setupId}/renders`),
  });
}

export function startRender(setupId: string): Promise<Job> {
  return request(`/setups/${setupId}/renders`, { method: 'POST' });
}

export function cancelRender(jobId: string): Promise<Job> {
  return request(`/renders/${jobId}/cancel`, { method: 'POST' });
}

export function renameTake(id: string, name: string): Promise<Take> {
  return request(`/takes/${id}`, { method: 'PATCH', json: { name } });
}

/** Brings a take in as a recording of which files can be made. */
export function takeAsRecording(id: string): Promise<CheckSummary> {
  return request(`/takes/${id}/recording`, { method: 'POST' });
}

export function deleteTake(id: string): Promise<void> {
  return request(`/takes/${id}`, { method: 'DELETE' });
}

/** The address of the container file, for a download. */
export function takeFileUrl(id: string): string {
  return `/api/takes/${id}/file`;
}

/** The address of one track as WAV. @param number counted from one */
export function trackUrl(id: string, number: number, download = false): string {
  return `/api/takes/${id}/tracks/${number}.wav${download ? '?download=1' : ''}`;
}
