import { dayOf } from '../core/setup/day.ts';

export { clockText as formatClock, gainText as formatDb } from '../core/words/figures.ts';

/** Says a loudness or a peak with its unit, or "–" for silence. */
export function formatLevel(value: number | null, unit: string): string {
  if (value === null) return '–';
  return `${value < 0 ? '−' : ''}${Math.abs(value).toFixed(1)} ${unit}`;
}

/** Writes a number as it is, with a real minus. */
export function formatPlain(value: number): string {
  return String(value).replace('-', '−');
}

/** Reads what somebody types as a figure: both kinds of minus and a comma are taken. Null when it is no number. */
export function parseFigure(text: string): number | null {
  const trimmed = text.trim().replace('−', '-').replace(',', '.');
  const value = Number(trimmed);
  return trimmed !== '' && Number.isFinite(value) ? value : null;
}

export { bytesText as formatBytes } from '../core/words/figures.ts';
/** Says a date and time in the reader's own way. */
export function formatMoment(iso: string): string {
  return new Date(iso).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });
}

/** Today as `YYYY-MM-DD`, for clearances that expire. */
export function today(): string {
  return dayOf(new Date());
}

/** Says a day (`YYYY-MM-DD`) in the reader's own way. */
export function formatDay(day: string): string {
  return new Date(`${day}T12:00:00`).toLocaleDateString(undefined, { dateStyle: 'medium' });
}
