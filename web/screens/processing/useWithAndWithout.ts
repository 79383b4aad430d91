import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { WithAndWithout } from '../../../core/balance/compare.ts';
import { heardSources } from '../../../core/balance/sounds.ts';
import { integratedLufs, powersOfMix } from '../../../core/measure/covariance.ts';
import { type Bearer, processingOf } from '../../../core/setup/bearers.ts';
import { processEdit } from '../../../core/setup/processEdit.ts';
import { stepsOn } from '../../../core/setup/processing.ts';
import type { Setup, Source } from '../../../core/setup/schema.ts';
import { settled } from '../../api/setups.ts';
import { measureEars, measureEarsWith, useCovariances } from '../../api/sounds.ts';
import { useSetup } from '../../setupContext.tsx';

/**
 * Measures how loud something is with its processing and without, once it is `wanted`: one source from its recording, a
 * whole in two renders, as some ear hears it.
 */
export function useWithAndWithout(
  bearer: Bearer,
  source: Source | undefined,
  ear: string,
  wanted: boolean,
): { found: WithAndWithout | undefined; error: Error | null } {
  const { id, setup, revision } = useSetup();
  const pair = useMemo(() => soundsOf(setup, source, bearer), [setup, source, bearer]);
  const sounds = useCovariances(pair, wanted && source !== undefined);
  const renders = useQuery({
    queryKey: ['with and without', id, revision, bearer, ear],
    queryFn: async ({ signal }): Promise<WithAndWithout> => {
      await settled(id);
      const lufsOf = ({ ears }: Awaited<ReturnType<typeof measureEars>>) =>
        ears.find(({ destinationId }) => destinationId === ear)?.integratedLufs ?? null;
      const bare = processEdit(setup, bearer, []);
      return {
        withIt: lufsOf(await measureEars(id, signal)),
        without: lufsOf(await measureEarsWith(id, revision, bare, signal)),
      };
    },
    enabled: wanted && source === undefined,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const covariances = sounds.data;
  const ofSource = useMemo(() => {
    if (!covariances) return undefined;
    const lufs = (gains: number[]) => integratedLufs(powersOfMix(covariances, gains));
    return { withIt: lufs([1, 0]), without: lufs([0, 1]) };
  }, [covariances]);
  return source ? { found: ofSource, error: sounds.error } : { found: renders.data, error: renders.error };
}

/** Two sounds of a source, with and without the processing; nothing where there is no recording. */
function soundsOf(setup: Setup, source: Source | undefined, bearer: Bearer) {
  if (!source?.media) return { sources: [], sounds: [] };
  const sound = { sourceId: source.id, delayFrames: 0, mono: false };
  const sounds = [
    { ...sound, processing: stepsOn(processingOf(setup, bearer)) },
    { ...sound, processing: [] },
  ];
  const bare =
    bearer.kind === 'source'
      ? setup.sources.map((one) => (one === source ? { ...one, processing: [] } : one))
      : setup.sources;
  return { sources: heardSources({ sources: bare }, sounds), sounds };
}
