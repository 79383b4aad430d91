import { useMemo } from 'react';
import type { Sound } from '../../core/balance/sounds.ts';
import { BLOCK_S, pairIndex } from '../../core/measure/covariance.ts';
import { momentsOf, type SourceCourse } from '../../core/measure/moments.ts';
import type { Setup } from '../../core/setup/schema.ts';
import { useCovariances } from '../api/sounds.ts';

/** What each source does over time, and what is worth hearing. */
export function useCourses(setup: Setup) {
  const sounds = useMemo(
    () =>
      setup.sources.flatMap(({ id, media }): Sound[] =>
        media ? [{ sourceId: id, path: media.path, delayFrames: 0, mono: false }] : [],
      ),
    [setup.sources],
  );
  const query = useCovariances(sounds);
  const covariances = query.data;
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
  return { query, courses, moments, endS: (covariances?.blocks ?? 0) * BLOCK_S };
}
