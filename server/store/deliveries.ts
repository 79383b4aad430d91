import { randomUUID } from 'node:crypto';
import type { Delivery, DeliveryOrder } from '../../core/deliver/records.ts';
import { orNotFound } from '../httpError.ts';
import type { Db } from './database.ts';

const COLUMNS =
  'id, check_id AS checkId, made_order AS madeOrder, state, phase, progress, message, folder, files, result, go, created_at AS createdAt';

type Row = Omit<Delivery, 'order' | 'files' | 'result'> & {
  madeOrder: string;
  files: string;
  result: string | null;
};

/** What may change of a delivery. */
export type DeliveryValues = Partial<
  Pick<Delivery, 'state' | 'phase' | 'progress' | 'message' | 'folder' | 'files' | 'result'>
>;

/** What is said of deliveries that were being made when the process died. */
const INTERRUPTED =
  'Northfen ended while it made these files. No unfinished files were left, and the recording was not changed. Make it again.';

/** What is made of recordings, and was. */
export class DeliveryStore {
  private readonly db: Db;

  constructor(db: Db) {
    this.db = db;
  }

  /** What was made of a recording, the newest first. */
  list(checkId: string): Delivery[] {
    return this.db
      .prepare(`SELECT ${COLUMNS} FROM deliveries WHERE check_id = ? ORDER BY created_at DESC, rowid DESC`)
      .all(checkId)
      .map((row) => deliveryOf(row as Row));
  }

  /** What was asked for last, of any recording, the newest first. */
  newest(most: number): Delivery[] {
    return this.db
      .prepare(`SELECT ${COLUMNS} FROM deliveries ORDER BY created_at DESC, rowid DESC LIMIT ?`)
      .all(most)
      .map((row) => deliveryOf(row as Row));
  }

  /** @throws {HttpError} 404 where there is no such delivery */
  get(id: string): Delivery {
    const row = this.db.prepare(`SELECT ${COLUMNS} FROM deliveries WHERE id = ?`).get(id);
    return deliveryOf(orNotFound(row as Row | undefined, 'delivery'));
  }

  /** The next that waits, the oldest first. */
  nextWaiting(): Delivery | undefined {
    const row = this.db
      .prepare(`SELECT ${COLUMNS} FROM deliveries WHERE state = 'waiting' ORDER BY queued_at, rowid LIMIT 1`)
      .get() as Row | undefined;
    return row && deliveryOf(row);
  }

  /** Marks what was being made when the process ended, and returns it. Call once, at the start. */
  markInterrupted(): Delivery[] {
    const rows = this.db.prepare(`SELECT ${COLUMNS} FROM deliveries WHERE state = 'running'`).all() as Row[];
    this.db
      .prepare("UPDATE deliveries SET state = 'failed', message = ?, folder = '' WHERE state = 'running'")
      .run(INTERRUPTED);
    return rows.map(deliveryOf);
  }

  /** @param go what it was asked for together with: see {@link Delivery} */
  add(checkId: string, order: DeliveryOrder, go: string | null = null): Delivery {
    const id = randomUUID();
    this.db
      .prepare(
        `INSERT INTO deliveries (id, check_id, made_order, state, phase, progress, folder, files, go, created_at, queued_at)
         VALUES (@id, @checkId, @order, 'waiting', '', 0, '', '[]', @go, @now, @now)`,
      )
      .run({ id, checkId, go, order: JSON.stringify(order), now: new Date().toISOString() });
    return this.get(id);
  }

  update(id: string, values: DeliveryValues): Delivery {
    const kept = { ...this.get(id), ...values };
    this.db
      .prepare(
        `UPDATE deliveries SET state = @state, phase = @phase, progress = @progress, message = @message, folder = @folder,
         files = @files, result = @result WHERE id = @id`,
      )
      .run({
        ...kept,
        order: null,
        files: JSON.stringify(kept.files),
        result: kept.result === null ? null : JSON.stringify(kept.result),
      });
    if (values.state === 'waiting')
      this.db.prepare('UPDATE deliveries SET queued_at = ? WHERE id = ?').run(new Date().toISOString(), id);
    return this.get(id);
  }

  remove(id: string): void {
    this.db.prepare('DELETE FROM deliveries WHERE id = ?').run(id);
  }
}

function deliveryOf({ madeOrder, files, result, ...row }: Row): Delivery {
  return {
    ...row,
    order: JSON.parse(madeOrder),
    files: JSON.parse(files),
    result: result === null ? null : JSON.parse(result),
  };
}
