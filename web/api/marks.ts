import { useQuery } from '@tanstack/react-query';
import type { Mark, MarkValues } from '../../core/deliver/records.ts';
import { request } from './client.ts';

/** What marks belong to: a recording, or the rehearsals of a setup. */
export interface MarkOwner {
  kind: 'checks' | 'setups';
  id: string;
}

/** The marks of a recording or a setup, in the order of time. */
export function useMarks({ kind, id }: MarkOwner) {
  return useQuery({ queryKey: ['marks', id], queryFn: () => request<Mark[]>(`/${kind}/${id}/marks`) });
}

export function addMarks({ kind, id }: MarkOwner, marks: MarkValues[]): Promise<Mark[]> {
  return request(`/${kind}/${id}/marks`, { method: 'POST', json: marks });
}

export function changeMark({ kind, id }: MarkOwner, markId: string, values: MarkValues): Promise<Mark> {
  return request(`/${kind}/${id}/marks/${markId}`, { method: 'PUT', json: values });
}

export function removeMark({ kind, id }: MarkOwner, markId: string): Promise<void> {
  return request(`/${kind}/${id}/marks/${markId}`, { method: 'DELETE' });
}
