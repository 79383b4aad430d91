import type { Room } from '../../core/room/room.ts';
import type { Db } from './database.ts';

/** The stand-in of the creator's room, one for each setup that somebody looked at. */
export class RoomStore {
  private readonly db: Db;

  constructor(db: Db) {
    this.db = db;
  }

  get(setupId: string): Room | null {
    const state = this.db.prepare('SELECT state FROM rooms WHERE setup_id = ?').pluck().get(setupId);
    return typeof state === 'string' ? (JSON.parse(state) as Room) : null;
  }

  set(setupId: string, room: Room): void {
    this.db
      .prepare(
        'INSERT INTO rooms (setup_id, state) VALUES (?, ?) ON CONFLICT (setup_id) DO UPDATE SET state = excluded.state',
      )
      .run(setupId, JSON.stringify(room));
  }
}
