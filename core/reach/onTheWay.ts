import type { Processing } from '../processors/processing.ts';
import { processingOf } from '../setup/bearers.ts';
import type { SimpleEdit } from '../setup/edits.ts';
import { processEdit } from '../setup/processEdit.ts';
import type { Setup, Source } from '../setup/schema.ts';
import { type Handle, handlesOf } from './cell.ts';
import type { Destination } from './destinations.ts';
import type { Reach } from './reach.ts';

/** The leg on which a source can be processed for one destination alone. */
export interface OwnLeg {
  handle: Handle;
  processing: Processing;
  /** Other sources that go the same way, and get the same. */
  others: Source[];
  /** Other destinations that lie behind the same leg. */
  behind: Destination[];
}

/** Returns where a source can be processed for one destination alone: its send, or the input of a mix; null where there is no such leg. */
export function ownLegOf(
  setup: Setup,
  reach: Reach,
  source: Source,
  destination: Destination,
): OwnLeg | null {
  if (!reach.at(source.id, destination.id)) return null;
  const [handle] = handlesOf(setup, reach, source, destination);
  if (!handle) return null;
  const passes = (places: string[]) =>
    places.some((place, i) => place === handle.from && places[i + 1] === handle.to);
  return {
    handle,
    processing: processingOf(setup, handle),
    others: setup.sources.filter(({ id }) => id !== source.id && handle.sources.includes(id)),
    behind: reach.destinations.filter(
      (one) => one.id !== destination.id && reach.at(source.id, one.id)?.places.some(passes),
    ),
  };
}

/** The edit that gives a leg another processing. */
export function processLeg(setup: Setup, { handle }: OwnLeg, processing: Processing): SimpleEdit {
  return processEdit(setup, handle, processing);
}
