import { type ProofLine, proofOf } from '../../core/measure/proof.ts';
import { reachOf } from '../../core/routing/reach.ts';
import type { Setup } from '../../core/setup/schema.ts';
import type { TrackMeasures } from '../media/measureTake.ts';
import type { TaskRunner } from './runner.ts';
import type { OnShare } from './tasks.ts';

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

/** A finished render: its length, what was measured, and the proof. */
export interface RenderedTake {
  durationS: number;
  tracks: TrackMeasures[];
  proof: ProofLine[];
}

/** The share of the whole that mixing takes; measuring takes longer. */
const MIXING_SHARE = 0.2;
/** Presence is measured for this many groups of sources side by side. */
const GROUPS = 2;

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

  const groups = groupsOf(mediaFiles);
  const shareOf = meanOf(groups.length + 1, (share) =>
    onProgress({ phase: 'Measuring', share: MIXING_SHARE + share * (1 - MIXING_SHARE) }),
  );
  const input = { setup, takePath, durationS };
  const [tracks, ...presence] = await Promise.all([
    runner.run('measureTracks', { ...input, mediaFiles: {} }, { signal, onProgress: shareOf(0) }),
    ...groups.map((group, index) =>
      runner.run(
        'measurePresence',
        { ...input, mediaFiles: group },
        { signal, onProgress: shareOf(index + 1) },
      ),
    ),
  ]);
  return { durationS, tracks, proof: proofOf(setup, reachOf(setup), presence.flat(), request.today) };
}

/** Deals the sources out to groups in turn. */
function groupsOf(mediaFiles: Record<string, string>): Record<string, string>[] {
  const entries = Object.entries(mediaFiles);
  return Array.from({ length: Math.min(GROUPS, entries.length) }, (_, group) =>
    Object.fromEntries(entries.filter((_entry, index) => index % GROUPS === group)),
  );
}

/** Reports the mean of several shares whenever one of them moves. */
function meanOf(count: number, report: OnShare): (index: number) => OnShare {
  const shares = new Array<number>(count).fill(0);
  return (index) => (share) => {
    shares[index] = share;
    report(shares.reduce((sum, one) => sum + one, 0) / count);
  };
}
