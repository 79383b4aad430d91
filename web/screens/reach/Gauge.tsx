import { clsx } from 'clsx';
import { formatDb } from '../../format.ts';
import { type CellState, MARK_LOOKS, markIn } from './cells.ts';

const EMPTY_DB = -42;
const FULL_DB = 12;

/** The share of a gauge that a level fills, 0 to 1. */
export function fillOf(gainDb: number): number {
  return Math.max(0.06, Math.min(1, (gainDb - EMPTY_DB) / (FULL_DB - EMPTY_DB)));
}

/**
 * One cell of the board in which something arrives, is missed, or is typed: water that stands as high as the level, with the
 * figure. A mark adds its word and its colour.
 */
export function Gauge({ cell, typed }: { cell: CellState; typed: string | null }) {
  const mark = markIn(cell);
  return (
    <span className="relative flex h-full w-full items-center justify-center [contain:size_layout]">
      {cell.gainDb !== null && (
        <svg
          aria-hidden="true"
          viewBox="0 0 60 100"
          preserveAspectRatio="none"
          className={clsx(
            // Clipping each of several hundred cells takes longer than drawing them.
            'absolute inset-0 h-full w-full',
            mark === 'leak' || 'overflow-visible',
            mark ? MARK_LOOKS[mark].water : 'text-water-pale',
          )}
        >
          <path fill="currentColor" d={waterline(1 - fillOf(cell.gainDb))} />
          {mark === 'leak' && (
            <path
              d={stripes()}
              stroke="var(--clay)"
              strokeWidth="1"
              opacity="0.35"
              vectorEffect="non-scaling-stroke"
            />
          )}
        </svg>
      )}
      {mark && cell.gainDb === null && typed === null && <Sluice colour={MARK_LOOKS[mark].className} />}
      <span aria-hidden="true" className="relative flex flex-col items-center leading-none">
        {typed !== null ? (
          <span className="border-b border-reed text-[15px]">{typed || ' '}▏</span>
        ) : (
          cell.gainDb !== null && (
            <span className="rounded-[3px] bg-sheet/85 px-1 py-px text-[15px]">{formatDb(cell.gainDb)}</span>
          )
        )}{' '}
        {mark && typed === null && (
          <span
            className={clsx(
              'rounded-[3px] bg-sheet/85 px-1 text-[11px] font-semibold',
              MARK_LOOKS[mark].className,
              cell.gainDb === null ? 'mt-6' : 'mt-px',
            )}
          >
            {mark}
          </span>
        )}
      </span>
    </span>
  );
}

/** A sluice that is let down where that is amiss, above the word for it. */
function Sluice({ colour }: { colour: string }) {
  return (
    <svg
      aria-hidden="true"
      viewBox="0 0 24 24"
      className={clsx(
        'absolute top-1/2 left-1/2 h-5 w-5 -translate-x-1/2 -translate-y-[80%] overflow-visible',
        colour,
      )}
    >
      <path
        d="M5 3v18M19 3v18M5 9h14M5 13h14M5 17h14"
        fill="none"
        stroke="currentColor"
        strokeWidth="1.6"
        strokeLinecap="round"
      />
    </svg>
  );
}

function waterline(top: number): string {
  const y = top * 100;
  const dip = 3;
  return `M0 ${y} q7.5 ${-dip} 15 0 t15 0 t15 0 t15 0 V100 H0 Z`;
}

function stripes(): string {
  return [10, 30, 50, 70, 90, 110, 130, 150].map((x) => `M${x} 0 L${x - 60} 100`).join(' ');
}
