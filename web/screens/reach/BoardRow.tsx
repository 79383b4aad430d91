import { clsx } from 'clsx';
import { memo } from 'react';
import type { FusedGroup } from '../../../core/reach/fused.ts';
import { CLEARANCE_PRESETS, presetOf } from '../../../core/setup/clearance.ts';
import type { Source } from '../../../core/setup/schema.ts';
import { type CellState, describeCell } from './cells.ts';
import { Gauge } from './Gauge.tsx';

/** The part of a bracket that stands in one row. */
interface Bracket {
  pickup: string;
  index: number;
  isFirst: boolean;
  isLast: boolean;
  isIn: boolean;
}

interface BoardRowProps {
  source: Source;
  row: number;
  /** What the row shows at each destination, and what these are called. */
  cells: CellState[];
  names: string[];
  /** Where a group of destinations begins. */
  starts: boolean[];
  /** The column that is chosen, if it is in this row. */
  column: number | null;
  typed: string | null;
  isTall: boolean;
  isDrawn: boolean;
  hasNoOwnTrack: boolean;
  brackets: Bracket[];
}

/** One row of the board; a long board draws anew only the rows in which something changes. */
export const BoardRow = memo(function BoardRow(props: BoardRowProps) {
  const { source, row, cells, names, starts, column, typed, isTall, isDrawn, hasNoOwnTrack, brackets } =
    props;
  return (
    <tr data-row={source.id}>
      <th
        scope="row"
        className={clsx(
          'sticky left-0 z-10 border-b border-rule bg-paper pr-3 text-left font-normal',
          column !== null && 'text-water',
        )}
      >
        {brackets.map((one) => (
          <BracketPart key={one.pickup} {...one} />
        ))}
        <span className="block truncate leading-tight font-semibold">{source.name}</span>
        <span className="block truncate text-xs leading-tight text-soft">
          {clearanceWord(source)}
          {brackets.some(({ isIn }) => isIn) && <span className="font-semibold text-heather"> · fused</span>}
          {hasNoOwnTrack && <span className="font-semibold text-reed"> · no own track</span>}
        </span>
      </th>
      {cells.map(({ gainDb, wantedDb, verdict }, at) => (
        <BoardCell
          key={`${row}-${at}`}
          source={source.name}
          destination={names[at]}
          place={`${row}-${at}`}
          gainDb={gainDb}
          wantedDb={wantedDb}
          verdict={verdict}
          isHere={at === column}
          typed={at === column ? typed : null}
          isTall={isTall}
          isDrawn={isDrawn}
          startsGroup={starts[at]}
        />
      ))}
    </tr>
  );
}, looksTheSame);

function looksTheSame(a: BoardRowProps, b: BoardRowProps): boolean {
  return (
    a.source === b.source &&
    a.row === b.row &&
    a.column === b.column &&
    a.typed === b.typed &&
    a.isTall === b.isTall &&
    a.isDrawn === b.isDrawn &&
    a.hasNoOwnTrack === b.hasNoOwnTrack &&
    a.cells.length === b.cells.length &&
    a.cells.every(
      (one, at) =>
        one.gainDb === b.cells[at].gainDb &&
        one.wantedDb === b.cells[at].wantedDb &&
        one.verdict === b.cells[at].verdict &&
        a.names[at] === b.names[at] &&
        a.starts[at] === b.starts[at],
    ) &&
    JSON.stringify(a.brackets) === JSON.stringify(b.brackets)
  );
}

interface BoardCellProps {
  source: string;
  destination: string;
  place: string;
  gainDb: number | null;
  wantedDb: number | null;
  verdict: CellState['verdict'];
  isHere: boolean;
  typed: string | null;
  isTall: boolean;
  isDrawn: boolean;
  startsGroup: boolean;
}

/** One cell; drawn anew only when something in it changes. */
const BoardCell = memo(function BoardCell(props: BoardCellProps) {
  const { source, destination, place, gainDb, wantedDb, verdict, isHere, typed, isTall } = props;
  const cell = { gainDb, wantedDb, verdict, findings: [] };
  const isShut = verdict === 'closed' && typed === null;
  return (
    <td
      role="gridcell"
      tabIndex={isHere ? 0 : -1}
      data-place={place}
      data-verdict={verdict}
      aria-selected={isHere}
      aria-label={describeCell(source, destination, cell)}
      className={clsx(
        'cursor-default border-r border-b border-rule bg-sheet p-0 outline-offset-[-2px] select-none',
        isTall ? 'h-[46px]' : 'h-[38px]',
        isShut && 'bg-(image:--sluice) bg-size-[1.25rem] bg-center bg-no-repeat',
        isHere && 'outline-2 outline-soft',
        'focus:outline-[3px] focus:outline-reed',
        props.startsGroup && 'border-l border-l-soft',
      )}
    >
      {props.isDrawn && !isShut && <Gauge cell={cell} typed={typed} />}
    </td>
  );
});

/** The parts of all brackets that stand in one row, beside the sources that come by one pickup. */
export function bracketsIn(groups: FusedGroup[], sources: Source[], row: number): Bracket[] {
  return groups.flatMap(({ pickup, sources: fused }, index): Bracket[] => {
    const rows = sources.flatMap(({ id }, at) => (fused.includes(id) ? [at] : []));
    const [first, last] = [rows[0], rows[rows.length - 1]];
    if (rows.length === 0 || row < first || row > last) return [];
    return [{ pickup, index, isFirst: row === first, isLast: row === last, isIn: rows.includes(row) }];
  });
}

/** A bracket beside the rows that are fused: it opens at the first, closes at the last, and passes others by dotted. */
function BracketPart({ index, isFirst, isLast, isIn }: Bracket) {
  return (
    <span
      aria-hidden="true"
      style={{ right: `${2 + index * 5}px` }}
      className={clsx(
        'absolute w-1.5 border-r-2 border-heather',
        isFirst ? 'top-2 border-t-2' : 'top-0',
        isLast ? 'bottom-2 border-b-2' : '-bottom-px',
        !isIn && 'border-dotted',
      )}
    />
  );
}

function clearanceWord(source: Source): string {
  const preset = presetOf(source.clearance);
  return preset
    ? CLEARANCE_PRESETS[preset].label.replace(/^[A-Z]/, (first) => first.toLowerCase())
    : 'cleared by hand';
}
