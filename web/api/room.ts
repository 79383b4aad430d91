import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { Room } from '../../core/room/room.ts';
import { useNotify } from '../parts/notices.tsx';
import { request } from './client.ts';

/**
 * The stand-in of a setup's room, and how to change it. A change shows at once; changes are sent one
 * after the other, and what is fetched while one is on its way does not take the place of what shows.
 */
export function useRoom(setupId: string): { room: Room | undefined; change: (room: Room) => void } {
  const client = useQueryClient();
  const notify = useNotify();
  const address = `/setups/${setupId}/room`;
  const key = ['room', setupId];
  const changing = () => client.isMutating({ mutationKey: key });
  const { data } = useQuery({
    queryKey: key,
    queryFn: async () => {
      const fetched = await request<Room>(address);
      return (changing() > 0 && client.getQueryData<Room>(key)) || fetched;
    },
  });
  const { mutate } = useMutation({
    mutationKey: key,
    scope: { id: address },
    mutationFn: (room: Room) => request<Room>(address, { method: 'PUT', json: room }),
    onError: (error) => notify('trouble', error.message),
    onSettled: () => {
      if (changing() === 1) void client.invalidateQueries({ queryKey: key });
    },
  });
  const change = (room: Room) => {
    client.setQueryData(key, room);
    mutate(room);
  };
  return { room: data, change };
}
