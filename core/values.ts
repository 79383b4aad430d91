import { z } from 'zod';

/** Gains outside of this range are refused: below it a send is closed instead, above it something is wrong. */
export const MIN_GAIN_DB = -96;
export const MAX_GAIN_DB = 24;

export const IdSchema = z
  .string()
  .min(1)
  .max(64)
  .regex(
    /^[a-z0-9]+(?:[._-][a-z0-9]+)*$/,
    'must be lower-case letters and digits, joined by ".", "-" or "_" (like "reedbox")',
  );

export const NameSchema = z
  .string()
  .trim()
  .min(1, 'must not be empty')
  .max(80, 'must be 80 characters or fewer');

export const GainDbSchema = z
  .number('must be a number of decibels')
  .min(MIN_GAIN_DB, `must be ${MIN_GAIN_DB} dB or more (close the send for silence)`)
  .max(MAX_GAIN_DB, `must be ${MAX_GAIN_DB} dB or less`);

/** Returns the nearest gain that is allowed, to a millionth of a decibel, so that sums of gains leave no crumbs. */
export function nearestGain(gainDb: number): number {
  return Math.max(MIN_GAIN_DB, Math.min(MAX_GAIN_DB, Math.round(gainDb * 1e6) / 1e6));
}
