import { useMemo } from 'react';
import type { StaticMixes } from '../../core/balance/sounds.ts';
import { BLOCK_S, pairIndex } from '../../core/measure/covariance.ts';
import { type Moment, momentsOf, type SourceCourse } from '../../core/proof/moments.ts';
import type { Setup, Source } from '../../core/setup/schema.ts';
import { useCovariances } from '../api/sounds.ts';

/** Every source as it is recorded, unprocessed. */
function asRecorded(all: Source[]): Pick<StaticMixes, 'sources' | 'sounds'> {
  const recorded = all.flatMap(({ id, media }) => (media ? [{ id, path: media.path }] : []));
  return {
    sources: recorded.map((source) => ({ ...source, processing: [] })),
    sounds: recorded.map(({ id }) => ({ sourceId: id, delayFrames: 0, mono: false, processing: [] })),
  };
}

/** What each source does over time, and what is worth hearing. */
export interface Courses {
  isPending: boolean;
  error: Error | null;
  again: () => void;
  courses: SourceCourse[];
  moments: Moment[];
  /** How long the longest recording is; 0 until it is known. */
  endS: number;
}

/** Returns what each source does over time, once it is `wanted`. */
export function useCourses(setup: Setup, wanted: boolean): Courses {
  const { sources, sounds } = useMemo(() => asRecorded(setup.sources), [setup.sources]);
  const { data: covariances, isPending, error, refetch } = useCovariances({ sources, sounds }, wanted);
  const courses = useMemo(() => {
    if (!covariances) return [];
    return sounds.flatMap(({ sourceId }, index): SourceCourse[] => {
      const source = setup.sources.find((one) => one.id === sourceId);
      const row = pairIndex(covariances.sounds, index, index) * covariances.blocks;
      const powers = Float64Array.from(covariances.pairs.subarray(row, row + covariances.blocks));
      return source ? [{ source, powers }] : [];
    });
  }, [covariances, sounds, setup.sources]);
  const moments = useMemo(() => momentsOf(courses), [courses]);
  return useMemo(
    () => ({
      isPending,
      error,
      again: () => void refetch(),
      courses,
      moments,
      endS: (covariances?.blocks ?? 0) * BLOCK_S,
    }),
    [isPending, error, refetch, courses, moments, covariances],
  );
}
