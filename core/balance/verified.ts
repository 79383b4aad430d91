import type { DestinationMeasures } from '../records.ts';
import { applyEdit, type Edit } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import { type Balanced, type BalanceInput, balanceAll, balanceEdit } from './solve.ts';
import type { StaticMix } from './sounds.ts';

/** A figure holds when a render is this near to it (LU, dB). */
export const HOLDS_LU = 0.5;
const ROUNDS = 4;

/** Levels that were solved, and what a render of them measured. */
export interface Verified {
  results: Balanced[];
  edit: Edit | null;
  setup: Setup;
  measured: DestinationMeasures[];
  /** Whether every figure of a destination that nothing stood in the way of holds in the render. */
  holds: boolean;
}

/**
 * Solves destinations, renders the solution, and solves again by what the render showed, until its figures hold within 0.5 LU
 * or four rounds are over. What is solved on covariances leaves out hum, drift and what clips; a render does not.
 * @param measure renders the setup with an edit (null: as it is) for everybody, and measures each; rounds count from one
 */
export async function balanceVerified(
  input: BalanceInput,
  mixes: StaticMix[],
  nameOf: (id: string) => string,
  measure: (edit: Edit | null, setup: Setup, round: number) => Promise<DestinationMeasures[]>,
): Promise<Verified> {
  const offsets = new Map<string, number>();
  const peaks = new Map(input.peaksDbtp);
  let last: Verified | null = null;
  for (let round = 0; round < ROUNDS; round++) {
    const results = balanceAll({ ...input, peaksDbtp: peaks, offsetsLu: offsets }, mixes);
    const edit = balanceEdit(input.setup, results, nameOf);
    const setup = edit ? applyEdit(input.setup, edit) : input.setup;
    const measured = await measure(edit, setup, round + 1);
    const found = new Map(measured.map((rendered) => [rendered.destinationId, rendered]));
    const holds = results.map((result) => holdsIn(result, found.get(result.destinationId))).every(Boolean);
    last = { results, edit, setup, measured, holds };
    if (holds) return last;
    for (const { destinationId, after, peakChangeDb } of results) {
      const rendered = found.get(destinationId);
      if (!rendered || rendered.integratedLufs === null || after.integratedLufs === null) continue;
      offsets.set(
        destinationId,
        (offsets.get(destinationId) ?? 0) + rendered.integratedLufs - after.integratedLufs,
      );
      if (rendered.truePeakDbtp !== null && Number.isFinite(peakChangeDb))
        peaks.set(destinationId, rendered.truePeakDbtp - peakChangeDb);
    }
  }
  return last as Verified;
}

/**
 * Tells whether a render shows what was solved: the loudness, and a true peak that is not above what was expected; nor below
 * it, where the peak is why everything is quieter than it should be.
 */
function holdsIn(
  { after, expectedDbtp, isPeakLimited, aim }: Balanced,
  rendered: DestinationMeasures | undefined,
): boolean {
  if (!rendered || after.integratedLufs === null) return true;
  const isLoudness =
    Math.abs((rendered.integratedLufs ?? Number.NEGATIVE_INFINITY) - after.integratedLufs) <= HOLDS_LU;
  const mayBe = Math.max(aim.ceilingDbtp, expectedDbtp ?? aim.ceilingDbtp);
  const peak = rendered.truePeakDbtp ?? Number.NEGATIVE_INFINITY;
  if (isPeakLimited && peak < aim.ceilingDbtp - HOLDS_LU) return false;
  return isLoudness && peak <= mayBe + HOLDS_LU;
}

/** By how much a render of each destination is louder than its figures say (LU), where both are known. */
export function offsetsOf(
  figures: { destinationId: string; integratedLufs: number | null }[],
  measures: DestinationMeasures[],
): Map<string, number> {
  return new Map(
    figures.flatMap(({ destinationId, integratedLufs }) => {
      const found =
        measures.find((rendered) => rendered.destinationId === destinationId)?.integratedLufs ?? null;
      return found === null || integratedLufs === null
        ? []
        : [[destinationId, found - integratedLufs] as const];
    }),
  );
}
