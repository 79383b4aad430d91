import type { Setup } from '../setup/schema.ts';

export const DRILL_KINDS = [
  'restart',
  'stuck',
  'unplug',
  'new game',
  'scene',
  'music in the call',
  'crossed chat',
  'listening in',
  'headphones off',
] as const;
export type DrillKind = (typeof DRILL_KINDS)[number];

/** A what-if: what happens, in words, and the state that it leaves a setup in. Nothing is changed by it. */
export interface Drill {
  id: string;
  kind: DrillKind;
  label: string;
  /** Returns the setup as it would be; null when this can no longer happen to it. */
  strike(setup: Setup): { setup: Setup; scene?: string } | null;
}

/** What a drill leaves a setup in. */
export type Struck = NonNullable<ReturnType<Drill['strike']>>;
