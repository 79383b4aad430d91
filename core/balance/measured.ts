import { finding, placeName } from '../findings/finding.ts';
import { OWN_VOICE_LATE_MS } from '../findings/limits.ts';
import type { Copy } from '../measure/echo.ts';
import type { DestinationMeasures } from '../records.ts';
import { nameOf } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import { levelText } from '../words/figures.ts';
import { aimOf } from './aims.ts';
import { audiences, type HeardFinding } from './heard.ts';
import type { StaticMix } from './sounds.ts';

/** A true peak may be this much over its ceiling (dB): meters differ by as much. */
const NEAR_CEILING_DB = 0.2;

/** Returns what is wrong with a render: peaks above their ceiling where somebody else listens, and the own voice late or twice. */
export function measuredFindings(
  setup: Setup,
  mixes: StaticMix[],
  measures: DestinationMeasures[],
): HeardFinding[] {
  return [
    ...audiences(mixes).flatMap(({ destination }): HeardFinding[] => {
      const peak =
        measures.find(({ destinationId }) => destinationId === destination.id)?.truePeakDbtp ?? null;
      const { ceilingDbtp } = aimOf(setup, destination);
      if (peak === null || peak <= ceilingDbtp + NEAR_CEILING_DB) return [];
      const what = peak > 0 ? 'it clips' : `its ceiling is ${levelText(ceilingDbtp)}`;
      const text = `At ${placeName(destination)} the true peak is ${levelText(peak)} dBTP: ${what}. A limiter on everything there holds it.`;
      return [
        {
          finding: finding('clipping', peak > 0 ? 'warn' : 'note', text, { destination: destination.id }),
          atS: null,
        },
      ];
    }),
    ...measures.flatMap(({ destinationId, ownVoices = [] }) =>
      ownVoices.flatMap(({ sourceId, copies }) => ownVoiceAt(setup, sourceId, destinationId, copies)),
    ),
  ];
}

function ownVoiceAt(setup: Setup, source: string, destination: string, copies: Copy[]): HeardFinding[] {
  const latestMs = Math.max(...copies.map(({ delayMs }) => delayMs));
  if (copies.length === 0 || (copies.length === 1 && latestMs <= OWN_VOICE_LATE_MS)) return [];
  const delays = copies.map(({ delayMs }) => delayMs.toFixed(1)).join(' and ');
  const how = copies.length === 1 ? `${delays} ms late` : `${copies.length} times, ${delays} ms late`;
  const text = `Measured: you hear your own voice (${nameOf(setup, source)}) ${how}.`;
  return [{ finding: finding('echo.self', 'warn', text, { source, destination }), atS: null }];
}
