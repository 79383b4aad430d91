import { type Edit, EditError, type SimpleEdit } from '../setup/edits.ts';
import { MAX_GAIN_DB, MIN_GAIN_DB, type Setup } from '../setup/schema.ts';
import { destinationsOf } from './destinations.ts';

/**
 * Returns the edit of one cell of the board: the source is wanted at the destination with the given total gain in
 * dB (null: not wanted), and the send that realises it moves along. Destinations that share the send (a track that
 * is live and VOD at once) follow, since no send can tell them apart.
 * @throws {EditError} when the destination has no track, or when the send that this would take is out of range.
 */
export function cellEdit(setup: Setup, sourceId: string, destinationId: string, gainDb: number | null): Edit {
  const source = setup.sources.find((one) => one.id === sourceId);
  const pickup = setup.pickups.find((one) => one.source === sourceId);
  const destinations = destinationsOf(setup);
  const destination = destinations.find((one) => one.id === destinationId);
  if (!source || !pickup || !destination)
    throw new EditError('cell', 'this source or destination is not there any more');

  const sharing = destinations.filter(
    (one) => one === destination || (one.feedId !== null && one.feedId === destination.feedId),
  );
  const edits: SimpleEdit[] = sharing.map((one) => ({
    edit: 'setWish',
    source: sourceId,
    destination: one.id,
    gainDb,
  }));
  if (destination.feedId !== null) {
    const sendDb = gainDb === null ? null : gainDb - source.levelDb - pickup.gainDb;
    if (sendDb !== null && (sendDb < MIN_GAIN_DB || sendDb > MAX_GAIN_DB)) {
      throw new EditError(
        'gainDb',
        `${source.name} would need a send of ${sendDb.toFixed(1)} dB; a send goes from ${MIN_GAIN_DB} to +${MAX_GAIN_DB} dB. Change the level of the source first`,
      );
    }
    edits.push({ edit: 'setSend', pickup: pickup.id, to: destination.feedId, gainDb: sendDb });
  }
  const verb =
    gainDb === null
      ? `close ${source.name} at ${destination.name}`
      : `${source.name} at ${destination.name} ${formatDb(gainDb)}`;
  return { edit: 'batch', label: verb, edits };
}

function formatDb(gainDb: number): string {
  return `${gainDb < 0 ? '−' : '+'}${Math.abs(gainDb).toFixed(1)} dB`;
}
