import { type Finding, finding } from '../findings/finding.ts';
import type { Calibration } from '../measure/calibrate.ts';
import { isHumCutOut, withHumCut } from '../processors/humCuts.ts';
import { MOST_STEPS } from '../processors/processing.ts';
import type { Edit } from '../setup/edits.ts';
import { isPlugged, type Setup, type Source } from '../setup/schema.ts';
import { roleOf } from './aims.ts';

/** A recording clips when more than this share of its samples is at full scale. */
const CLIPPED_SHARE = 1e-4;

/** The sources whose recordings are looked at by themselves: voices, and what is plugged in. */
export function lookedAt(sources: Source[]): Source[] {
  return sources.filter((source) => source.media && (roleOf(source) === 'voice' || isPlugged(source.kind)));
}

/** Returns what is wrong with a recording: it clips, or it hums and nothing is done about it. */
export function recordingFindings(
  source: Pick<Source, 'id' | 'name' | 'processing'>,
  { clippedShare, hum }: Pick<Calibration, 'clippedShare' | 'hum'>,
): Finding[] {
  const about = { source: source.id };
  const findings: Finding[] = [];
  if (clippedShare > CLIPPED_SHARE) {
    const percent = (100 * clippedShare).toFixed(clippedShare < 0.001 ? 2 : 1);
    const text = `The recording of ${source.name} clips: ${percent} % of it is at full scale. No level mends that; turn its input down and record again.`;
    findings.push(finding('clipping', 'warn', text, about));
  }
  if (hum && !isHumCutOut(source.processing ?? [], hum.hz)) {
    const text = `${source.name} hums: ${hum.hz} Hz and its harmonics are ${hum.overDb.toFixed(0)} dB above what is beside them.`;
    findings.push(finding('hum', 'warn', text, { ...about, detail: `${hum.hz}` }));
  }
  return findings;
}

/** The edit that cuts the hum out of a source, as a finding says it; null where it has no room for the steps. */
export function humRemedy(
  setup: Setup,
  { code, source, detail }: Finding,
): { label: string; edit: Edit } | null {
  const humming = setup.sources.find(({ id }) => id === source);
  if (code !== 'hum' || !humming) return null;
  const processing = withHumCut(humming.processing ?? [], Number(detail));
  if (processing.length > MOST_STEPS) return null;
  return {
    label: `Cut the hum out of ${humming.name}`,
    edit: { edit: 'updateSource', id: humming.id, values: { processing } },
  };
}
