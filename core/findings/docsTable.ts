import { CODES, FINDING_CODES } from './codes.ts';

/** Returns the table of findings as docs/wiring.md has it, in Markdown; a test holds the two together. */
export function findingsTable(): string {
  const rows = FINDING_CODES.map((code) => {
    const { severity, when } = CODES[code];
    return [
      code,
      severity,
      'isHeard' in CODES[code] ? `${when} (see [balance and rehearsal](balance.md))` : when,
    ];
  });
  const all = [['code', 'at most', 'when'], ...rows];
  const widths = [0, 1, 2].map((column) => Math.max(...all.map((row) => row[column].length)));
  const line = (row: string[]) => `| ${row.map((cell, i) => cell.padEnd(widths[i])).join(' | ')} |`;
  return [
    line(all[0]),
    `| ${widths.map((width) => '-'.repeat(width)).join(' | ')} |`,
    ...rows.map(line),
  ].join('\n');
}
