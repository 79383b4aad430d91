import { join } from 'node:path';
import { NOTHING_TO_COMPARE, verdictOf } from '../../core/check/verification.ts';
import type { MadeFindings, MadeHandoff } from '../../core/deliver/records.ts';
import type { RunOptions, TaskRunner } from '../jobs/runner.ts';
import { carries, type Forbidden, type TrackFindings } from './checkTracks.ts';
import { extractAll } from './extractAll.ts';
import { type HandoffRequest, refuseExisting, stretchesOf, TRACKS_FOLDER, writeHandoff } from './handoff.ts';
import { inNewFolder } from './newFolder.ts';

/** A handoff of a recording of which it is known what is in its tracks: see {@link handedTracks}. */
export interface KnownHandoffRequest extends Omit<HandoffRequest, 'references' | 'found' | 'extracted'> {
  format?: 'wav' | 'flac';
  forbidden: Forbidden;
  findings: Omit<TrackFindings, 'asked'>;
}

/** The tracks (counted from zero, of so many) that are looked through for a handoff: what carries nothing but such a sound is off anyway. */
export function handedTracks(count: number, { sounds }: Pick<Forbidden, 'sounds'>): number[] {
  return Array.from({ length: count }, (_, at) => at).filter((at) =>
    sounds.every((sound) => !carries(sound, at)),
  );
}

/**
 * Writes what an editor needs of a recording.
 * @param tracks those that were looked through
 * @throws {MediaError} where the folder holds a handoff already, there is no room, or a track does not decode
 */
export async function makeHandoff(
  runner: TaskRunner,
  tracks: number[],
  { forbidden, findings, format, ...request }: KnownHandoffRequest,
  { onProgress = () => {}, signal }: RunOptions = {},
): Promise<MadeHandoff & MadeFindings> {
  const { path, folder } = request;
  await refuseExisting(folder, request.name);
  const isOfThem = ({ track }: { track: number }) => tracks.includes(track - 1);
  const cannotBe = forbidden.unknown.flatMap((reference) =>
    tracks.map((track) => ({ reference, track: track + 1, reason: NOTHING_TO_COMPARE })),
  );
  const leaks = findings.leaks.filter(isOfThem);
  const untested = [...findings.untested.filter(isOfThem), ...cannotBe];
  const isAsked = tracks.length > 0 && forbidden.sounds.length + forbidden.unknown.length > 0;
  const found: MadeFindings = { verdict: isAsked ? verdictOf(leaks, untested) : null, leaks, untested };
  const marks = stretchesOf({ marks: request.marks, found }).map(({ name, fromS }) => ({ atS: fromS, name }));
  const written = await inNewFolder(folder, async () => {
    const extracted = await extractAll(
      runner,
      path,
      join(folder, TRACKS_FOLDER),
      { format, marks },
      { onProgress, signal },
    );
    return writeHandoff({ ...request, extracted, references: forbidden.sounds, found });
  });
  return { ...written, ...found };
}
