import { dayOf } from '../core/setup/day.ts';

import { clockText as formatClock } from '../core/words/figures.ts';

export { bytesText as formatBytes, gainText as formatDb } from '../core/words/figures.ts';
export { formatClock };

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

/** Writes a time so that nothing of it is lost: "1:05", "1:05.25", "2:01:05". */
export function formatTime(seconds: number): string {
  const hundredths = Math.round(seconds * 100);
  const rest = hundredths % 100;
  const tail = rest === 0 ? '' : `.${String(rest).padStart(2, '0').replace(/0$/, '')}`;
  return `${formatClock(Math.floor(hundredths / 100))}${tail}`;
}

/** Reads a time as people type it, in seconds or with colons: "65", "1:05", "2:01:05.5". Null when it is none. */
export function parseTime(text: string): number | null {
  const parts = text.trim().replace(',', '.').split(':');
  if (parts.length > 3 || !parts.every((part) => /^\d+(\.\d+)?$/.test(part.trim()))) return null;
  return parts.reduce((seconds, part) => 60 * seconds + Number(part), 0);
}

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
