import { clsx } from 'clsx';
import { Ear as EarIcon } from 'lucide-react';
import { useCallback, useRef } from 'react';
import { toDb } from '../../../core/audio/decibel.ts';
import { aimOf } from '../../../core/balance/aims.ts';
import type { HeardDestination } from '../../../core/engine/destinations.ts';
import { REPORT } from '../../../core/engine/rehearsal.ts';
import { stepsOn, wordFor } from '../../../core/processors/processing.ts';
import { type Destination, destinationsOf, wholeOf } from '../../../core/reach/destinations.ts';
import { processingOf } from '../../../core/setup/bearers.ts';
import type { Setup } from '../../../core/setup/schema.ts';
import type { Transport } from '../../audio/transport.ts';
import { useEveryFrame } from '../../parts/useEveryFrame.ts';

/** The scale of a meter (LUFS). */
const LOWEST = -48;
const HOLD_MS = 1500;

interface DestinationListProps {
  setup: Setup;
  destinations: HeardDestination[];
  chosen: number;
  compared: number | null;
  transport: Transport | null;
  onChoose: (destination: number) => void;
  /** Opens the processing of everything that the chosen destination gets. */
  onProcess: () => void;
}

/** Every destination with its meter; one is listened to. */
export function DestinationList({
  setup,
  destinations,
  chosen,
  compared,
  transport,
  onChoose,
  onProcess,
}: DestinationListProps) {
  return (
    <ul aria-label="Hear it as">
      {destinations.map((destination, index) => (
        <li key={destination.id} className="border-b border-rule last:border-0">
          <button
            type="button"
            aria-pressed={index === chosen}
            onClick={() => onChoose(index)}
            className={clsx(
              'block w-full py-1.5 pr-1 pl-2 text-left hover:bg-paper',
              index === chosen && 'border-l-[3px] border-l-water pl-[5px]',
            )}
          >
            <span className="flex items-baseline gap-2 text-sm leading-tight">
              <kbd className="w-4 text-center font-sans text-xs text-soft">{index < 9 ? index + 1 : ''}</kbd>
              <span className={clsx('flex-1 truncate', index === chosen && 'font-semibold text-water')}>
                {destination.name}
              </span>
              {index === chosen && <EarIcon size={14} aria-label="listened to" className="text-water" />}
              {index === compared && <span className="text-xs text-heather">compared</span>}
            </span>
            <Meter
              transport={transport}
              destination={index}
              name={destination.name}
              targetLufs={targetAt(setup, destination)}
            />
          </button>
          {index === chosen && (
            <button
              type="button"
              onClick={onProcess}
              className="mb-1.5 ml-8 min-h-6 py-1 text-left text-xs text-water underline hover:text-ink"
            >
              {wholeText(setup, destination)}
            </button>
          )}
        </li>
      ))}
    </ul>
  );
}

/** The loudness that balancing aims for there. */
function targetAt(setup: Setup, heard: HeardDestination): number | null {
  const destination = destinationAt(setup, heard);
  return destination ? aimOf(setup, destination).targetLufs : null;
}

function destinationAt(setup: Setup, { id }: HeardDestination): Destination | undefined {
  return destinationsOf(setup).find((one) => one.id === id);
}

/** What is done to everything that somebody gets. */
function wholeText(setup: Setup, heard: HeardDestination): string {
  const destination = destinationAt(setup, heard);
  const steps = destination ? stepsOn(processingOf(setup, wholeOf(destination))) : [];
  return steps.length === 0
    ? 'process everything that arrives here'
    : `everything here goes through: ${steps.map(wordFor).join(', ')}`;
}

interface MeterProps {
  transport: Transport | null;
  destination: number;
  name: string;
  targetLufs: number | null;
}

/** Momentary loudness as water, short-term as a mark below, the held peak as a line; a bracket round the target. */
function Meter({ transport, destination, name, targetLufs }: MeterProps) {
  const water = useRef<HTMLSpanElement>(null);
  const mark = useRef<HTMLSpanElement>(null);
  const line = useRef<HTMLSpanElement>(null);
  const figure = useRef<HTMLSpanElement>(null);
  const held = useRef({ peak: 0, until: 0 });
  const draw = useCallback(() => {
    if (!transport) return;
    const at = REPORT.destinations + REPORT.perDestination * destination;
    const [momentary, shortTerm, peak] = transport.report.subarray(at, at + REPORT.perDestination);
    const now = performance.now();
    if (peak >= held.current.peak || now > held.current.until)
      held.current = { peak: Math.max(peak, 0), until: now + HOLD_MS };
    if (water.current) water.current.style.width = `${destinationOf(momentary)}%`;
    if (mark.current) mark.current.style.left = `${destinationOf(shortTerm)}%`;
    if (line.current) {
      line.current.style.left = `${destinationOf(toDb(held.current.peak))}%`;
      line.current.classList.toggle('bg-clay', held.current.peak >= 0.891);
    }
    if (figure.current) {
      const text = Number.isFinite(shortTerm) ? shortTerm.toFixed(1).replace('-', '−') : '–';
      if (figure.current.textContent !== text) figure.current.textContent = text;
    }
  }, [transport, destination]);
  useEveryFrame(draw);
  return (
    <span className="mt-0.5 flex items-center gap-2 pl-6">
      <span
        role="img"
        aria-label={`Meter of ${name}`}
        data-meter={name}
        className="relative block h-3 flex-1 border border-rule bg-sunk"
      >
        <span ref={water} className="absolute inset-y-0 left-0 bg-water-pale" style={{ width: 0 }} />
        {targetLufs !== null && (
          <span
            className="absolute -inset-y-0.5 border-x-2 border-ink"
            style={{
              left: `${destinationOf(targetLufs - 1)}%`,
              right: `${100 - destinationOf(targetLufs + 1)}%`,
            }}
          />
        )}
        <span
          ref={mark}
          className="absolute -bottom-1 h-1.5 w-1 -translate-x-0.5 bg-ink"
          style={{ left: 0 }}
        />
        <span ref={line} className="absolute inset-y-0 w-px bg-ink" style={{ left: 0 }} />
      </span>
      <span ref={figure} className="w-11 text-right text-xs text-soft">
        –
      </span>
    </span>
  );
}

function destinationOf(lufs: number): number {
  if (!Number.isFinite(lufs)) return 0;
  return Math.max(0, Math.min(100, (100 * (lufs - LOWEST)) / -LOWEST));
}
