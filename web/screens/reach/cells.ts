import type { Finding } from '../../../core/findings/finding.ts';
import type { Intent } from '../../../core/reach/intent.ts';
import type { Reach } from '../../../core/reach/reach.ts';
import { formatDb } from '../../format.ts';

/**
 * What a cell shows: `open` and wanted, `closed` and not wanted, `dry` (wanted, nothing arrives), `stray` (arrives,
 * not wanted), `leak` (arrives, not cleared), `twice` (more than one copy arrives).
 */
export interface CellState {
  gainDb: number | null;
  wantedDb: number | null;
  verdict: 'open' | 'closed' | 'dry' | 'stray' | 'leak' | 'twice';
  findings: Finding[];
}

/** Returns the state of one cell from reach, intent and the findings that concern it. */
export function cellState(
  reach: Reach,
  intent: Intent,
  findings: Finding[],
  source: string,
  destination: string,
): CellState {
  const gainDb = reach.at(source, destination)?.gainDb ?? null;
  const wantedDb = intent.at(source, destination);
  const mine = findings.filter((one) => one.source === source && one.destination === destination);
  const has = (code: string) => mine.some((one) => one.code.startsWith(code));
  const verdict = has('leak')
    ? 'leak'
    : has('missing')
      ? 'dry'
      : has('unwanted')
        ? 'stray'
        : has('doubled')
          ? 'twice'
          : gainDb === null
            ? 'closed'
            : 'open';
  return { gainDb, wantedDb, verdict, findings: mine };
}

/** Says a cell in words, for those who do not see it. */
export function describeCell(source: string, destination: string, { gainDb, verdict }: CellState): string {
  const level = gainDb === null ? '' : formatDb(gainDb);
  // The words of the cell as they are seen, side by side, and then what they mean.
  const words: Record<CellState['verdict'], string> = {
    open: `${level} dB`,
    closed: 'closed',
    dry: `${level ? `${level} ` : ''}dry, wanted but does not arrive`,
    stray: `${level} stray, in dB: not wanted here`,
    leak: `${level} leak, in dB: not cleared`,
    twice: `${level} twice, in dB: arrives more than once`,
  };
  return `${source} at ${destination}: ${words[verdict]}`;
}
