import { useQuery } from '@tanstack/react-query';
import type { Delivery, DeliveryOrder } from '../../core/deliver/records.ts';
import { request } from './client.ts';

/** What is made of a recording, and was; the newest first. */
export function useDeliveries(checkId: string) {
  return useQuery({
    queryKey: ['deliveries', checkId],
    queryFn: () => request<Delivery[]>(`/checks/${checkId}/deliveries`),
  });
}

/** What was asked for last, of any recording. */
export function useNewestDeliveries() {
  return useQuery({ queryKey: ['deliveries', 'newest'], queryFn: () => request<Delivery[]>('/deliveries') });
}

/** Has what is usual made of several recordings in one go. */
export function orderUsual(
  checkIds: string[],
  what: { isVideo: boolean; handoff: 'wav' | 'flac' | null },
): Promise<Delivery[]> {
  return request('/deliveries/usual', { method: 'POST', json: { checkIds, ...what } });
}

/** Has something made of a recording. */
export function order(checkId: string, what: DeliveryOrder): Promise<Delivery> {
  return request('/deliveries', { method: 'POST', json: { checkId, order: what } });
}

export function stopDelivery(id: string): Promise<Delivery> {
  return request(`/deliveries/${id}/stop`, { method: 'POST' });
}

export function makeAgain(id: string): Promise<Delivery> {
  return request(`/deliveries/${id}/again`, { method: 'POST' });
}

export function removeDelivery(id: string): Promise<void> {
  return request(`/deliveries/${id}`, { method: 'DELETE' });
}

/** The address of a file that was made; to be kept, or to be heard and seen. */
export function fileUrl(id: string, name: string, how: 'save' | 'show'): string {
  const query = new URLSearchParams({ name });
  if (how === 'save') query.set('save', '1');
  return `/api/deliveries/${id}/file?${query}`;
}
