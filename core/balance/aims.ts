import type { Destination } from '../reach/destinations.ts';
import type { BalanceAim, Setup, Source } from '../setup/schema.ts';

/** What is held true at a destination, with everything that was left out filled in. */
export interface Aim {
  /** Null: as loud as it is. */
  targetLufs: number | null;
  ceilingDbtp: number;
  bedLu: number;
  wishes: NonNullable<BalanceAim['wishes']>;
}

/** A source is a voice, belongs to the bed that lies under the voices, or is an accent, which keeps its place beside them. */
export const ROLES = ['voice', 'bed', 'accent'] as const;
export type Role = (typeof ROLES)[number];

/** Listening tests on commentary over music and ambience put preference at 10 LU or more. */
export const DEFAULT_BED_LU = 10;
const DEFAULT_CEILING_DBTP = -1;

/** Returns what balancing aims for at a destination. */
export function aimOf(setup: Setup, { id, targetLufs }: Destination): Aim {
  const aim = setup.balance?.find((one) => one.destination === id);
  return {
    targetLufs: aim?.targetLufs !== undefined ? aim.targetLufs : (targetLufs ?? null),
    ceilingDbtp: aim?.ceilingDbtp ?? DEFAULT_CEILING_DBTP,
    bedLu: aim?.bedLu ?? DEFAULT_BED_LU,
    wishes: aim?.wishes ?? {},
  };
}

/** Returns what a source is in a mix, from its kind. */
export function roleOf({ kind }: Pick<Source, 'kind'>): Role {
  if (kind === 'microphone' || kind === 'voice chat') return 'voice';
  return kind === 'alerts' || kind === 'system' || kind === 'sound pad' ? 'accent' : 'bed';
}
