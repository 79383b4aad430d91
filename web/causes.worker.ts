import './strictPage.ts';
import { causesOf } from '../core/repair/causes.ts';
import { type CauseReport, reportOf } from '../core/repair/report.ts';
import type { Setup } from '../core/setup/schema.ts';

/** In a very large setup remedies are looked for during this long (ms); what is left is listed without. */
const MOST_MS = 8000;

/** What the worker is asked: the causes of a setup on a day. */
export interface CausesRequest {
  setup: Setup;
  today: string;
}

/** The causes of what was asked for, the gravest first. */
export type CausesAnswer = CauseReport[];

self.onmessage = ({ data: { setup, today } }: MessageEvent<CausesRequest>) => {
  const started = performance.now();
  const isOver = () => performance.now() - started > MOST_MS;
  const causes = causesOf(setup, today, undefined, { isOver }).map(reportOf);
  self.postMessage(causes satisfies CausesAnswer);
};
