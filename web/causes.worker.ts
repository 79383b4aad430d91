import './strictPage.ts';
import { causesOf } from '../core/repair/causes.ts';
import type { Setup } from '../core/setup/schema.ts';

/** What the worker is asked: the causes of a setup on a day. */
export interface CausesRequest {
  number: number;
  setup: Setup;
  today: string;
}

/** For each cause the ids of the findings that it brings; the first is the gravest. */
export interface CausesAnswer {
  number: number;
  groups: string[][];
}

self.onmessage = ({ data: { number, setup, today } }: MessageEvent<CausesRequest>) => {
  const groups = causesOf(setup, today).map(({ brings }) => brings.map(({ id }) => id));
  self.postMessage({ number, groups } satisfies CausesAnswer);
};
