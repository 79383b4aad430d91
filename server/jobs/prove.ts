import type { TrackMeasures } from '../../core/records.ts';
import type { Setup } from '../../core/setup/schema.ts';
import type { TaskRunner } from './runner.ts';
import type { Proven } from './tasks.ts';
import { allOrNone, meanOf } from './together.ts';

/** Where a running render is: what it is doing, and the share of the whole that is done, 0 to 1. */
export interface Progress {
  phase: string;
  share: number;
}

export interface ProveRequest {
  setup: Setup;
  /** Absolute paths by source id. */
  mediaFiles: Record<string, string>;
  takePath: string;
  /** `YYYY-MM-DD`, for clearances that expire. */
  today: string;
  /** Pretends that the disk is full beyond this many bytes. */
  spaceBytes?: number;
  onProgress?: (progress: Progress) => void;
  signal?: AbortSignal;
}

/** A finished render: its length, what was measured, the proof, and what that comes to. */
export interface RenderedTake extends Proven {
  durationS: number;
  tracks: TrackMeasures[];
}

/** The share of the whole that mixing takes; measuring takes longer. */
const MIXING_SHARE = 0.2;
/** The tracks are measured in this many groups side by side. */
const GROUPS = 2;
/**
 * From this length on (s) they are measured in one pass by one thread: the media library keeps the place of every packet that
 * it has read, so that memory grows a little with each minute in each thread.
 */
const LONG_S = 20 * 60;

/**
 * Renders a take, measures it in the file as it was written, and sets it beside the plan.
 * @throws what the tasks throw; an AbortError when cancelled
 */
export async function renderAndProve(runner: TaskRunner, request: ProveRequest): Promise<RenderedTake> {
  const { setup, mediaFiles, takePath, signal, onProgress = () => {} } = request;
  const mixing = { setup, mediaFiles, outPath: takePath, spaceBytes: request.spaceBytes };
  const durationS = await runner.run('render', mixing, {
    signal,
    onProgress: (share) => onProgress({ phase: 'Mixing', share: share * MIXING_SHARE }),
  });

  const groups = groupsOf(
    setup.tracks.map((track) => track.id),
    durationS < LONG_S ? GROUPS : 1,
  );
  const shareOf = meanOf(groups.length, (share) =>
    onProgress({ phase: 'Measuring', share: MIXING_SHARE + share * (1 - MIXING_SHARE) }),
  );
  const measures = await allOrNone(
    groups.map((trackIds, index) => (signal) => {
      const input = { setup, mediaFiles, takePath, durationS, trackIds };
      return runner.run('measure', input, { signal, onProgress: shareOf(index) });
    }),
    signal,
  );
  const measured = measures.flatMap(({ tracks }) => tracks);
  const tracks = setup.tracks.flatMap(({ id }) => measured.filter(({ trackId }) => trackId === id));
  const presence = measures.flatMap((part) => part.presence);
  const proven = await runner.run('proof', { setup, presence, today: request.today }, { signal });
  return { durationS, tracks, ...proven };
}

/** Deals tracks out to groups in turn. */
function groupsOf(trackIds: string[], count: number): string[][] {
  return Array.from({ length: Math.min(count, trackIds.length) }, (_, group) =>
    trackIds.filter((_id, index) => index % count === group),
  );
}
