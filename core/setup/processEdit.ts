import type { Processing } from '../processors/processing.ts';
import { type Bearer, isLeg, legOf } from './bearers.ts';
import type { SimpleEdit } from './edits.ts';
import type { Setup } from './schema.ts';

const EDITS = {
  source: 'updateSource',
  mix: 'updateMix',
  pickup: 'updatePickup',
  track: 'updateTrack',
  destination: 'updateDestination',
} as const;

/** The edit that gives a thing another processing. */
export function processEdit(setup: Setup, bearer: Bearer, processing: Processing): SimpleEdit {
  if (!isLeg(bearer)) {
    const { kind, id } = bearer;
    return { edit: EDITS[kind], id, values: { processing } };
  }
  const { kind, from, to } = bearer;
  if (kind === 'input') return { edit: 'setMixInput', mix: to, from, values: { processing } };
  return { edit: 'setSend', pickup: from, to, gainDb: legOf(setup, bearer)?.gainDb ?? 0, processing };
}
