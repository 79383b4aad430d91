import { queryOptions, useQueries, useQuery } from '@tanstack/react-query';
import type { StaticMixes } from '../../core/balance/sounds.ts';
import type { Calibration } from '../../core/measure/calibrate.ts';
import { type Covariances, unpackCovariances } from '../../core/measure/covariance.ts';
import type { DestinationMeasures, Passage } from '../../core/records.ts';
import type { Edit } from '../../core/setup/edits.ts';
import { ApiError, request } from './client.ts';
import { inLine } from './line.ts';
import { settled } from './setups.ts';

/** How sounds go together, measured by the server once it is `wanted`; the first time takes a while. */
export function useCovariances({ sources, sounds }: Pick<StaticMixes, 'sources' | 'sounds'>, wanted = true) {
  return useQuery({
    queryKey: ['covariances', JSON.stringify([sources, sounds])],
    queryFn: () => inLine('covariances', () => fetchCovariances({ sources, sounds })),
    enabled: wanted && sounds.length > 0,
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 30 * 60_000,
  });
}

/** What was read from a recording: floor, speech, gate, hum. */
export function useCalibration(path: string, passage: Passage | null = null) {
  return useQuery(calibrationOf(path, passage));
}

/** The same for several recordings, in their order, once it is `wanted`; undefined where it is not known yet. */
export function useCalibrations(paths: string[], wanted = true): (Calibration | undefined)[] {
  const queries = paths.map((path) => ({ ...calibrationOf(path, null), enabled: wanted }));
  return useQueries({ queries, combine: dataOf });
}

/** What each of several queries has found; the same list as long as nothing in it changes. */
function dataOf<T>(results: { data: T | undefined }[]): (T | undefined)[] {
  return results.map(({ data }) => data);
}

function calibrationOf(path: string, passage: Passage | null) {
  const asked = new URLSearchParams({ path });
  if (passage) for (const [field, value] of Object.entries(passage)) asked.set(field, value.toFixed(3));
  return {
    queryKey: ['calibration', path, passage],
    queryFn: () => inLine('calibrations', () => request<Calibration>(`/sounds/calibration?${asked}`)),
    staleTime: Number.POSITIVE_INFINITY,
  };
}

/** What everybody hears, and the revision of the setup that it is measured of. */
interface Measured {
  revision: number;
  destinations: DestinationMeasures[];
}

/** What everybody hears of a revision of a setup, rendered and measured by the server: the query of it, kept for all who ask. */
export function measuresOf(setupId: string, revision: number) {
  return queryOptions({
    queryKey: ['destinations', setupId, revision],
    queryFn: async ({ signal }): Promise<DestinationMeasures[]> => {
      await settled(setupId);
      const measure = () => request<Measured>(`/setups/${setupId}/destinations`, { signal });
      return (await inLine('renders', measure, signal)).destinations;
    },
    staleTime: Number.POSITIVE_INFINITY,
  });
}

/** What everybody would hear with an edit, which is not made. */
export async function measureWith(
  setupId: string,
  revision: number,
  edit: Edit,
  signal?: AbortSignal,
): Promise<DestinationMeasures[]> {
  const asked = { method: 'POST', json: { revision, edit }, signal };
  const measure = () => request<Measured>(`/setups/${setupId}/destinations`, asked);
  return (await inLine('renders', measure, signal)).destinations;
}

async function fetchCovariances(body: Pick<StaticMixes, 'sources' | 'sounds'>): Promise<Covariances> {
  const answer = await fetch('/api/sounds/covariances', {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(body),
  });
  if (!answer.ok) {
    const said = (await answer.json().catch(() => null)) as { error?: { message?: string } } | null;
    throw new ApiError(
      answer.status,
      'unmeasured',
      said?.error?.message ?? 'The recordings could not be measured. Try again.',
    );
  }
  return unpackCovariances(await answer.arrayBuffer());
}
