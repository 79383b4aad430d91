/** Prints one JSON object on standard output. */
export function printJson(value: unknown): void {
  process.stdout.write(`${JSON.stringify(value, null, 2)}\n`);
}

/** Prints lines on standard output. */
export function printLines(lines: string[]): void {
  if (lines.length > 0) process.stdout.write(`${lines.join('\n')}\n`);
}

/** Says a figure with one decimal and its unit, or "–" where there is none. */
export function figure(value: number | null, unit: string): string {
  return value === null ? '–' : `${value.toFixed(1)} ${unit}`;
}

/** Says a time as minutes and seconds. */
export function clock(seconds: number): string {
  const tenths = Math.round(seconds * 10);
  const minutes = Math.floor(tenths / 600);
  return `${minutes}:${((tenths - minutes * 600) / 10).toFixed(1).padStart(4, '0')}`;
}

/** Shows how far work is, on the last line of the terminal; nothing where errors go elsewhere. An empty text takes it away. */
export function showProgress(text: string): void {
  if (!process.stderr.isTTY) return;
  const width = Math.max(20, (process.stderr.columns ?? 80) - 1);
  process.stderr.write(`\r${text.slice(0, width).padEnd(width)}${text ? '' : '\r'}`);
}
