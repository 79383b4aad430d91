import { heardFindings } from '../core/balance/heard.ts';
import { type HeardCause, heardCauses } from '../core/balance/heardCauses.ts';
import { measuredFindings } from '../core/balance/measured.ts';
import { lookedAt, recordingFindings } from '../core/balance/recordings.ts';
import { staticMixes } from '../core/balance/sounds.ts';
import type { Finding } from '../core/findings/finding.ts';
import { calibrate } from '../core/measure/calibrate.ts';
import { withFft } from '../core/measure/fft.ts';
import { reachOf } from '../core/reach/reach.ts';
import type { Setup } from '../core/setup/schema.ts';
import { measureCovariances } from '../server/media/covariances.ts';
import { measureDestinations } from '../server/media/measureDestinations.ts';
import { readMono } from '../server/media/readMono.ts';

/** Returns what is wrong in the sound of a setup, by cause. @param files the recording of each source that has one, by id */
export async function findingsInSound(setup: Setup, files: Record<string, string>): Promise<HeardCause[]> {
  const reach = reachOf(setup);
  const { sources, sounds, mixes } = staticMixes(setup, reach);
  if (sounds.length === 0) return [];
  const recordings: Finding[] = [];
  for (const source of lookedAt(setup.sources)) {
    const samples = await readMono(files[source.id]);
    const found = await withFft((makeFft) => calibrate(makeFft, samples));
    recordings.push(...recordingFindings(source, found));
  }
  const covariances = await measureCovariances(
    sources.map(({ path: _, ...source }) => ({ ...source, file: files[source.id] })),
    sounds,
  );
  const input = { setup, reach, sounds, covariances };
  const heard = heardFindings(input, mixes);
  const measured = measuredFindings(setup, mixes, await measureDestinations(setup, files));
  const findings = [...recordings, ...[...heard, ...measured].map(({ finding }) => finding)];
  return heardCauses(input, setup, mixes, findings);
}
