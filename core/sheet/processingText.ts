import { kindOf, type Processing } from '../processors/processing.ts';
import { nameOf } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';

/** Says the steps of a processing with the figures that are set by hand: "high-pass at 80 Hz, then noise gate from −45.0 dB on". */
export function processingText(setup: Setup, processing: Processing): string {
  return processing
    .map((step) => {
      const { word, says } = kindOf(step);
      return `${word}${says(step, (source) => nameOf(setup, source))}`;
    })
    .join(', then ');
}
