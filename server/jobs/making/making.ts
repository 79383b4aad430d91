import type { Check } from '../../../core/check/records.ts';
import type { DeliveryOrder, DeliveryResult } from '../../../core/deliver/records.ts';
import type { CheckStore } from '../../store/checks.ts';
import type { DeliveryStore } from '../../store/deliveries.ts';
import type { MarkStore } from '../../store/marks.ts';
import type { Checks } from '../checks.ts';
import type { TaskRunner } from '../runner.ts';

/** What making needs from the rest of the server. */
export interface MakingContext {
  dataDir: string;
  mediaDir: string | null;
  checks: CheckStore;
  checking: Pick<Checks, 'fileOf'>;
  deliveries: DeliveryStore;
  marks: MarkStore;
  runner: TaskRunner;
}

/** What is to be made of a recording, and where. */
export interface DeliveryRequest<Order extends DeliveryOrder = DeliveryOrder> {
  check: Check;
  order: Order;
  folder: string;
  signal: AbortSignal;
  onProgress: (phase: string, share: number) => void;
}
/** The same for one kind of order. */
export type RequestFor<Kind extends DeliveryOrder['kind']> = DeliveryRequest<
  Extract<DeliveryOrder, { kind: Kind }>
>;

/** What was made, and what there is to say of it. */
export interface Made {
  result: DeliveryResult;
  message: string | null;
}
