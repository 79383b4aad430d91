import { MARKS, type Mark, markOf } from '../../../core/findings/codes.ts';
import type { Finding } from '../../../core/findings/finding.ts';
import type { Intent } from '../../../core/reach/intent.ts';
import type { Reach } from '../../../core/reach/reach.ts';
import { formatDb } from '../../format.ts';

/** What a cell shows: the mark of its gravest finding, or, without one, whether something arrives. */
export interface CellState {
  gainDb: number | null;
  wantedDb: number | null;
  verdict: Mark | 'open' | 'closed';
  findings: Finding[];
}

/** How a mark looks and what it means: its colour, the colour of the water under it, and words for those who do not see it. */
export const MARK_LOOKS: Record<Mark, { className: string; water: string; words: string }> = {
  leak: { className: 'text-clay', water: 'text-clay-pale', words: 'not cleared' },
  dry: { className: 'text-reed', water: 'text-transparent', words: 'wanted but does not arrive' },
  gap: { className: 'text-reed', water: 'text-water-pale', words: 'silent in some scene' },
  echo: { className: 'text-heather', water: 'text-heather-pale', words: 'a voice comes back' },
  stray: { className: 'text-heather', water: 'text-heather-pale', words: 'not wanted here' },
  twice: { className: 'text-reed', water: 'text-reed-pale', words: 'arrives more than once' },
  off: { className: 'text-reed', water: 'text-water-pale', words: 'far from the level that you want' },
  hum: { className: 'text-reed', water: 'text-water-pale', words: 'its line may hum' },
};

/** The mark of a cell; null for one that is open or closed, and nothing else. */
export function markIn({ verdict }: Pick<CellState, 'verdict'>): Mark | null {
  return verdict === 'open' || verdict === 'closed' ? null : verdict;
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
  if (findings.length === 0)
    return { gainDb, wantedDb, verdict: gainDb === null ? 'closed' : 'open', findings: [] };
  const mine = findings.filter((one) => one.source === source && one.destination === destination);
  const marks = new Set(mine.map(({ code }) => markOf(code)));
  const mark = MARKS.find((one) => marks.has(one));
  // Where the board shows the scene in which a source is silent, nothing arrives at all.
  const verdict = mark === 'gap' && gainDb === null ? 'dry' : mark;
  return { gainDb, wantedDb, verdict: verdict ?? (gainDb === null ? 'closed' : 'open'), findings: mine };
}

/** Says a cell in words, for those who do not see it: first the words of the cell as they are seen, side by side, then what they mean. */
export function describeCell(source: string, destination: string, cell: CellState): string {
  const mark = markIn(cell);
  const level = cell.gainDb === null ? '' : formatDb(cell.gainDb);
  const what = level
    ? mark
      ? `${level} ${mark}, in dB: ${MARK_LOOKS[mark].words}`
      : `${level} dB`
    : mark
      ? `${mark}, ${MARK_LOOKS[mark].words}`
      : 'closed';
  return `${source} at ${destination}: ${what}`;
}
