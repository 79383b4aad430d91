import { clsx } from 'clsx';
import { type KeyboardEvent, memo, type SyntheticEvent, useEffect, useRef } from 'react';
import type { Destination } from '../../../core/reach/destinations.ts';
import type { FusedGroup } from '../../../core/reach/fused.ts';
import type { Source } from '../../../core/setup/schema.ts';
import { useSteady } from '../../parts/useSteady.ts';
import { BoardRow, bracketsIn } from './BoardRow.tsx';
import type { CellState } from './cells.ts';
import type { Place } from './useBoardKeys.ts';
import { useRowsNear } from './useRowsNear.ts';

const CELL_REM = 3.7;
/** With up to this many sources the rows are taller. */
const FEW_ROWS = 10;

const GROUPS: { title: string; holds: (destination: Destination) => boolean }[] = [
  {
    title: 'Listening',
    holds: ({ kind }) => kind === 'headphones' || kind === 'loudspeakers' || kind === 'friends',
  },
  { title: 'Elsewhere', holds: ({ kind }) => kind === 'other' },
  { title: 'On air', holds: ({ kind }) => kind === 'live' || kind === 'vod' },
  { title: 'In the file', holds: ({ kind }) => kind === 'file' },
];

/** Returns destinations in the order of the board: who listens, what is on air, the file. */
export function inGroups(destinations: Destination[]): Destination[] {
  return GROUPS.flatMap(({ holds }) => destinations.filter(holds));
}

interface BoardProps {
  sources: Source[];
  destinations: Destination[];
  /** The sources that have no track of their own, though they are to have one. */
  alone: Set<string>;
  /** The sources that no send can tell apart. */
  fused: FusedGroup[];
  cellAt: (source: string, destination: string) => CellState;
  at: Place;
  typed: string | null;
  onSelect: (place: Place) => void;
  onToggle: (place: Place) => void;
  onKeyDown: (event: KeyboardEvent) => void;
  onBlur: () => void;
  onTrack: (destination: Destination) => void;
  /** Opens what headphones, loudspeakers or friends are. */
  onDestination: (destination: Destination) => void;
  /** Moves a track to where another stands. */
  onMoveTrack: (trackId: string, to: string) => void;
}

/** What is dragged when a track is. */
const TRACK_TYPE = 'application/x-northfen-track';

/** The board: sources down, destinations across, and in every cell the level that arrives. */
export function Board({
  sources,
  destinations,
  alone,
  fused,
  cellAt,
  at,
  typed,
  onSelect,
  onToggle,
  onKeyDown,
  onBlur,
  onTrack,
  onDestination,
  onMoveTrack,
}: BoardProps) {
  const grid = useRef<HTMLTableElement>(null);
  const frame = useRef<HTMLDivElement>(null);
  const hasFocus = useRef(false);
  useEffect(() => {
    if (!hasFocus.current) return;
    grid.current?.querySelector<HTMLElement>(`[data-place="${at.row}-${at.column}"]`)?.focus();
  }, [at.row, at.column]);

  const openTrack = useSteady(onTrack);
  const openDestination = useSteady(onDestination);
  const moveTrack = useSteady(onMoveTrack);
  const isNear = useRowsNear(
    frame,
    sources.map(({ id }) => id),
  );
  const names = destinations.map(({ name }) => name);
  const starts = destinations.map((_, column) => startsGroup(destinations, column));
  return (
    <div
      ref={frame}
      className="relative max-h-full min-h-48 [--board-head:9.5rem] narrow:[--board-head:7rem] shrink overflow-auto [scroll-padding:4.5rem_1rem_1rem_10rem]"
      data-testid="board-frame"
    >
      <table
        ref={grid}
        role="grid"
        aria-label="What reaches whom"
        className="w-full table-fixed border-separate border-spacing-0"
        style={{ minWidth: `calc(var(--board-head) + ${destinations.length * CELL_REM}rem)` }}
        onFocus={(event) => {
          hasFocus.current = true;
          const place = destinationOf(event);
          if (place) onSelect(place);
        }}
        onClick={(event) => {
          const place = destinationOf(event);
          if (!place) return;
          (event.target as HTMLElement).closest<HTMLElement>('[data-place]')?.focus();
          onSelect(place);
        }}
        onDoubleClick={(event) => {
          const place = destinationOf(event);
          if (place) onToggle(place);
        }}
        onKeyDown={(event) => {
          if (destinationOf(event)) onKeyDown(event);
        }}
        onBlur={(event) => {
          if (event.currentTarget.contains(event.relatedTarget)) return;
          hasFocus.current = false;
          onBlur();
        }}
      >
        <BoardHead
          destinations={destinations}
          column={at.column}
          onTrack={openTrack}
          onDestination={openDestination}
          onMoveTrack={moveTrack}
        />
        <tbody>
          {sources.map((source, row) => (
            <BoardRow
              key={source.id}
              source={source}
              row={row}
              cells={destinations.map(({ id }) => cellAt(source.id, id))}
              names={names}
              starts={starts}
              column={at.row === row ? at.column : null}
              typed={at.row === row ? typed : null}
              isTall={sources.length <= FEW_ROWS}
              isDrawn={isNear(source.id)}
              hasNoOwnTrack={alone.has(source.id)}
              brackets={bracketsIn(fused, sources, row)}
            />
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** The place of the cell that an event comes from, or null when it comes from elsewhere on the board. */
function destinationOf({ target }: SyntheticEvent): Place | null {
  const place = (target as HTMLElement).closest<HTMLElement>('[data-place]')?.dataset.place;
  if (place === undefined) return null;
  const [row, column] = place.split('-').map(Number);
  return { row, column };
}

type BoardHeadProps = Pick<BoardProps, 'destinations' | 'onTrack' | 'onDestination' | 'onMoveTrack'> & {
  column: number;
};

/** The names of the destinations; a level that changes does not draw them anew. */
const BoardHead = memo(function BoardHead(props: BoardHeadProps) {
  const { destinations, column, onTrack, onDestination, onMoveTrack } = props;
  const moveBy = (index: number, by: number) => {
    const track = destinations[index].track;
    const beside = destinations
      .slice(by < 0 ? 0 : index + 1, by < 0 ? index : undefined)
      .filter((one) => one.track)
      .at(by < 0 ? -1 : 0)?.track;
    if (track && beside) onMoveTrack(track.id, beside.id);
  };
  return (
    <thead className="sticky top-0 z-20 bg-paper">
      <tr>
        <th
          rowSpan={2}
          scope="col"
          className="sticky left-0 z-10 w-(--board-head) border-b border-soft bg-paper text-left align-top text-[11px] font-normal text-soft"
        >
          levels in dB
        </th>
        {GROUPS.map(({ title, holds }) => {
          const count = destinations.filter(holds).length;
          return count === 0 ? null : (
            <th
              key={title}
              colSpan={count}
              scope="colgroup"
              className="border-l border-soft pl-1.5 text-left text-xs font-normal text-soft"
            >
              {title}
            </th>
          );
        })}
      </tr>
      <tr>
        {destinations.map((destination, index) => (
          <th
            key={destination.id}
            scope="col"
            className={clsx(
              'h-12 border-b border-b-soft p-0 align-bottom font-normal',
              startsGroup(destinations, index) && 'border-l border-l-soft',
              index === column && 'text-water',
            )}
          >
            {destination.track || destination.sendTo === null ? (
              <button
                type="button"
                onClick={() => onTrack(destination)}
                draggable={destination.track !== null}
                onDragStart={(event) => event.dataTransfer.setData(TRACK_TYPE, destination.track?.id ?? '')}
                onDragOver={(event) => {
                  if (destination.track && event.dataTransfer.types.includes(TRACK_TYPE))
                    event.preventDefault();
                }}
                onDrop={(event) => {
                  const moved = event.dataTransfer.getData(TRACK_TYPE);
                  if (moved && destination.track && moved !== destination.track.id)
                    onMoveTrack(moved, destination.track.id);
                }}
                onKeyDown={(event) => {
                  if (!event.altKey || (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight')) return;
                  event.preventDefault();
                  moveBy(index, event.key === 'ArrowLeft' ? -1 : 1);
                }}
                title={
                  destination.track
                    ? `Change track ${destination.trackNumber}, “${destination.track.name}”; drag it, or Alt and an arrow, to move it`
                    : 'No track has this use: add one'
                }
                className="w-full px-1 pb-0.5 text-left hover:bg-sunk"
              >
                <HeadText destination={destination} />
              </button>
            ) : (
              <button
                type="button"
                onClick={() => onDestination(destination)}
                title={`Change ${destination.name}`}
                className="w-full px-1 pb-0.5 text-left hover:bg-sunk"
              >
                <HeadText destination={destination} />
              </button>
            )}
          </th>
        ))}
      </tr>
    </thead>
  );
}, namesTheSame);

function namesTheSame(a: BoardHeadProps, b: BoardHeadProps): boolean {
  return (
    a.column === b.column &&
    a.destinations.length === b.destinations.length &&
    a.destinations.every((one, at) => {
      const other = b.destinations[at];
      return (
        one.id === other.id &&
        one.name === other.name &&
        one.kind === other.kind &&
        one.sendTo === other.sendTo &&
        one.track === other.track &&
        one.trackNumber === other.trackNumber
      );
    })
  );
}

function HeadText({ destination }: { destination: Destination }) {
  const { name, track, trackNumber, kind } = destination;
  const detail = track ? `track ${trackNumber}` : kind === 'live' || kind === 'vod' ? 'no track' : 'own mix';
  return (
    <>
      <span className="line-clamp-2 text-[12px] leading-[1.1] font-semibold break-words">{name}</span>
      <span className="block text-[11px] leading-tight text-soft">{detail}</span>
    </>
  );
}

function startsGroup(destinations: Destination[], index: number): boolean {
  const groupOf = (destination: Destination) => GROUPS.findIndex(({ holds }) => holds(destination));
  return index === 0 || groupOf(destinations[index]) !== groupOf(destinations[index - 1]);
}
