import { type Processing, type Processor, STEP_WORDS } from '../processors/processing.ts';
import { nameOf } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import { gainText, levelText } from '../setup/words.ts';

/** Says the steps of a processing with the figures that are set by hand: "high-pass at 80 Hz, then noise gate from −45.0 dB on". */
export function processingText(setup: Setup, processing: Processing): string {
  return processing.map((step) => `${STEP_WORDS[step.does]}${figures(setup, step)}`).join(', then ');
}

function figures(setup: Setup, step: Processor): string {
  switch (step.does) {
    case 'trim':
      return ` ${gainText(step.gainDb)} dB`;
    case 'high-pass':
      return ` at ${step.hz} Hz`;
    case 'band':
      return ` (${step.shape}) ${gainText(step.gainDb)} dB at ${step.hz} Hz, Q ${step.q}`;
    case 'gate':
      return ` from ${levelText(step.opensDb)} dB on, down by ${Math.abs(step.rangeDb)} dB`;
    case 'noise reduction':
      return ` by ${step.reduceDb} dB`;
    case 'compressor':
      return ` from ${levelText(step.thresholdDb)} dB on, ${step.ratio} to 1, make-up ${gainText(step.makeUpDb)} dB`;
    case 'ducking':
      return ` by ${step.depthDb} dB under ${nameOf(setup, step.key)}`;
    case 'limiter':
      return ` at ${levelText(step.ceilingDbtp)} dBTP`;
    case 'delay':
      return ` of ${step.delayMs} ms`;
    case 'polarity':
    case 'mono fold':
      return '';
  }
}
