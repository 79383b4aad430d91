import { useMemo } from 'react';
import { coursesOf, figuresOf, type MixCourses, type MixFigures } from '../../core/balance/figures.ts';
import { type BalanceInput, ownLufs } from '../../core/balance/solve.ts';
import { type StaticMix, staticMixes } from '../../core/balance/sounds.ts';
import type { Setup } from '../../core/setup/schema.ts';
import { useCovariances } from '../api/sounds.ts';
import { knownReach } from '../setupFindings.ts';

/** One destination as it sounds with the levels that are set. */
export interface BalancedMix {
  mix: StaticMix;
  courses: MixCourses;
  figures: MixFigures;
  /** The loudness of a source by itself there (LUFS); null in silence. */
  ownLufs: (sourceId: string) => number | null;
}

/** Everything that balancing works on, once it is `wanted`; the figures follow each change of a level at once. */
export function useBalance(setup: Setup, wanted = true) {
  const reach = knownReach(setup);
  const { sources, sounds, mixes } = useMemo(() => staticMixes(setup, reach), [setup, reach]);
  const query = useCovariances({ sources, sounds }, wanted);
  const covariances = query.data;
  const input = useMemo(
    (): BalanceInput | null =>
      covariances && covariances.sounds === sounds.length ? { setup, reach, sounds, covariances } : null,
    [setup, reach, sounds, covariances],
  );
  const balanced = useMemo(
    () =>
      input
        ? mixes
            .filter(({ gains }) => gains.some((gain) => gain !== 0))
            .map((mix): BalancedMix => {
              const courses = coursesOf(setup, sounds, mix, input.covariances);
              return {
                mix,
                courses,
                figures: figuresOf(courses),
                ownLufs: (sourceId) => ownLufs(input, mix.gains, sourceId),
              };
            })
        : [],
    [input, mixes, setup, sounds],
  );
  return { query, reach, input, balanced, hasSounds: sounds.length > 0 };
}
