import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { WithAndWithout } from '../../../core/balance/compare.ts';
import { heardSources } from '../../../core/balance/sounds.ts';
import { integratedLufs, powersOfMix } from '../../../core/measure/covariance.ts';
import { type Processing, stepsOn } from '../../../core/processors/processing.ts';
import { reachOf } from '../../../core/reach/reach.ts';
import type { DestinationMeasures } from '../../../core/records.ts';
import type { Bearer } from '../../../core/setup/bearers.ts';
import { applyEdit } from '../../../core/setup/edits.ts';
import { processEdit } from '../../../core/setup/processEdit.ts';
import type { Setup, Source } from '../../../core/setup/schema.ts';
import { measuresOf, measureWith, useCovariances } from '../../api/sounds.ts';
import { useSetup } from '../../setupContext.tsx';

/**
 * Measures how loud something is with its processing and with another instead, once it is `wanted`: one source from its recording, a
 * whole in two renders, as some destination hears it.
 */
export function useWithAndWithout(
  bearer: Bearer,
  source: Source | undefined,
  destination: string,
  other: Processing,
  wanted: boolean,
): { found: WithAndWithout | undefined; error: Error | null } {
  const { id, setup, revision } = useSetup();
  const queries = useQueryClient();
  const pair = useMemo(
    () => soundsOf(setup, source, bearer, destination, other),
    [setup, source, bearer, destination, other],
  );
  const sounds = useCovariances(pair, wanted && source !== undefined);
  const renders = useQuery({
    queryKey: ['with and without', id, revision, bearer, destination, other],
    queryFn: async ({ signal }): Promise<WithAndWithout> => {
      const lufsOf = (measures: DestinationMeasures[]) =>
        measures.find(({ destinationId }) => destinationId === destination)?.integratedLufs ?? null;
      const edit = processEdit(setup, bearer, other);
      return {
        withIt: lufsOf(await queries.fetchQuery(measuresOf(id, revision))),
        without: lufsOf(await measureWith(id, revision, edit, signal)),
      };
    },
    enabled: wanted && source === undefined,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const covariances = sounds.data;
  const [withGain, withoutGain] = pair.gains;
  const ofSource = useMemo(() => {
    if (!covariances) return undefined;
    const lufs = (gains: number[]) => integratedLufs(powersOfMix(covariances, gains));
    return { withIt: lufs([withGain, 0]), without: lufs([0, withoutGain]) };
  }, [covariances, withGain, withoutGain]);
  return source ? { found: ofSource, error: sounds.error } : { found: renders.data, error: renders.error };
}

/** Two sounds of a source, with its processing and with another, each with its gain; nothing where there is no recording. */
function soundsOf(
  setup: Setup,
  source: Source | undefined,
  bearer: Bearer,
  destination: string,
  other: Processing,
) {
  if (!source?.media) return { sources: [], sounds: [], gains: [] };
  if (bearer.kind === 'source') {
    const bare = applyEdit(setup, processEdit(setup, bearer, []));
    const sound = { sourceId: source.id, delayFrames: 0, mono: false };
    const sounds = [
      { ...sound, processing: stepsOn(source.processing) },
      { ...sound, processing: stepsOn(other) },
    ];
    return { sources: heardSources(bare, sounds), sounds, gains: [1, 1] };
  }
  const instead = applyEdit(setup, processEdit(setup, bearer, other));
  const ways = [setup, instead].flatMap((one) => reachOf(one).at(source.id, destination)?.ways[0] ?? []);
  const sounds = ways.map(({ delayFrames, mono, processing }) => ({
    sourceId: source.id,
    delayFrames,
    mono,
    processing,
  }));
  return { sources: heardSources(setup, sounds), sounds, gains: ways.map(({ gain }) => gain) };
}
