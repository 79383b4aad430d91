import express, { Router } from 'express';
import { RoomSchema, roomOf } from '../../core/room/room.ts';
import type { ServerContext } from '../context.ts';

/** The stand-in of a setup's room: how it is now, and changing it. Mounted below a setup. */
export function roomRoutes({ setups, rooms, events }: ServerContext): Router {
  const router = Router({ mergeParams: true });

  router.get('/', (request, response) => {
    const { setupId } = request.params as { setupId: string };
    const { setup } = setups.get(setupId);
    response.json(rooms.get(setupId) ?? roomOf(setup));
  });

  router.put('/', express.json({ limit: '1mb' }), (request, response) => {
    const { setupId } = request.params as { setupId: string };
    setups.get(setupId);
    const room = RoomSchema.parse(request.body);
    rooms.set(setupId, room);
    events.send('room', { setupId });
    response.json(room);
  });
  return router;
}
