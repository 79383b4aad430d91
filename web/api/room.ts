import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { Room } from '../../core/room/room.ts';
import { useNotify } from '../parts/notices.tsx';
import { request } from './client.ts';

/** The stand-in of a setup's room, and how to change it; the change shows at once. */
export function useRoom(setupId: string): { room: Room | undefined; change: (room: Room) => void } {
  const client = useQueryClient();
  const notify = useNotify();
  const { data } = useQuery({
    queryKey: ['room', setupId],
    queryFn: () => request<Room>(`/setups/${setupId}/room`),
  });
  const change = (room: Room) => {
    client.setQueryData(['room', setupId], room);
    request<Room>(`/setups/${setupId}/room`, { method: 'PUT', json: room }).catch((error: Error) => {
      notify('trouble', error.message);
      void client.invalidateQueries({ queryKey: ['room', setupId] });
    });
  };
  return { room: data, change };
}
