import { type Finding, finding } from '../findings/finding.ts';
import type { Calibration } from '../measure/calibrate.ts';
import { isHumCutOut, withHumCut } from '../processors/humCuts.ts';
import { MOST_STEPS, type Processing, stepsOn } from '../processors/processing.ts';
import type { Edit } from '../setup/edits.ts';
import { isPlugged, type Setup, type Source } from '../setup/schema.ts';
import { roleOf } from './aims.ts';

/** A recording clips when more than this share of its samples is at full scale. */
const CLIPPED_SHARE = 1e-4;

/** Noise that lies nearer than this below a voice is heard beside it (dB). */
const NOISY_DB = 22;
/** … and is to lie this far below it. */
const QUIET_DB = 36;
const LEAST_REDUCTION_DB = 6;
const MOST_REDUCTION_DB = 24;

/** The sources whose recordings are looked at by themselves: voices, and what is plugged in. */
export function lookedAt(sources: Source[]): Source[] {
  return sources.filter((source) => source.media && (roleOf(source) === 'voice' || isPlugged(source.kind)));
}

/** Returns what is wrong with a recording: it clips, or it hums or is noisy and nothing is done about it. */
export function recordingFindings(
  source: Pick<Source, 'id' | 'name' | 'kind' | 'processing'>,
  {
    clippedShare,
    hum,
    floorDb,
    speechDb,
  }: Pick<Calibration, 'clippedShare' | 'hum' | 'floorDb' | 'speechDb'>,
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
  const underDb = floorDb === null || speechDb === null ? null : speechDb - floorDb;
  // A hum is noise too, and told as what it is.
  const reducedDb = reductionDb(source);
  if (underDb !== null && underDb + reducedDb < NOISY_DB && !hum && roleOf(source) === 'voice') {
    const still = reducedDb > 0 ? `, and ${(underDb + reducedDb).toFixed(0)} dB once it is reduced` : '';
    const text = `The noise behind ${source.name} is ${underDb.toFixed(0)} dB under the voice${still}: a fan, the room, or a microphone that is turned up too far.`;
    findings.push(finding('noisy', 'warn', text, { ...about, detail: underDb.toFixed(0) }));
  }
  return findings;
}

/** By how much the noise behind a source is reduced (dB). */
function reductionDb({ processing }: Pick<Source, 'processing'>): number {
  return stepsOn(processing).reduce(
    (sum, step) => sum + (step.does === 'noise reduction' ? step.reduceDb : 0),
    0,
  );
}

/** The edit that takes hum or noise out of a source, as a finding says it; null where it has no room for the steps. */
export function recordingRemedy(
  setup: Setup,
  { code, source: about, detail }: Finding,
): { label: string; edit: Edit } | null {
  const source = setup.sources.find(({ id }) => id === about);
  if (!source || (code !== 'hum' && code !== 'noisy')) return null;
  const now = source.processing ?? [];
  const processing = code === 'hum' ? withHumCut(now, Number(detail)) : withReduction(now, Number(detail));
  if (processing.length > MOST_STEPS || JSON.stringify(processing) === JSON.stringify(now)) return null;
  return {
    label: `${code === 'hum' ? 'Cut the hum' : 'Take the noise'} out of ${source.name}`,
    edit: { edit: 'updateSource', id: source.id, values: { processing } },
  };
}

/** Noise reduction first of all, by as much as brings the noise well under the voice; one that is switched off goes. */
function withReduction(processing: Processing, underDb: number): Processing {
  const reduceDb = Math.max(LEAST_REDUCTION_DB, Math.min(MOST_REDUCTION_DB, QUIET_DB - underDb));
  return [
    { does: 'noise reduction', reduceDb },
    ...processing.filter(({ does }) => does !== 'noise reduction'),
  ];
}
