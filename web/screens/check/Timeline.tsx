import { clsx } from 'clsx';
import { useState } from 'react';
import type { Check, CheckResult } from '../../../core/check/records.ts';
import { type LeakInterval, leakNotes } from '../../../core/check/verification.ts';
import { formatClock, formatDb } from '../../format.ts';
import { Button } from '../../parts/controls.tsx';
import { Outline } from './Outline.tsx';
import { usePassages } from './passages.tsx';

/** More places than these are not listed one by one. */
const MOST_LISTED = 60;

/** Where forbidden sounds were found, along each track and as a list; each place can be heard. */
export function Timeline({ check, result }: { check: Check; result: CheckResult }) {
  const [chosen, setChosen] = useState<LeakInterval | null>(result.leaks[0] ?? null);
  if (result.leaks.length === 0) return null;
  const lengthS = Math.max(check.durationS ?? 0, ...result.leaks.map(({ endS }) => endS), 0.001);
  const tracks = [...new Set(result.leaks.map(({ track }) => track))].sort((a, b) => a - b);
  const choose = (leak: LeakInterval) => setChosen(leak);
  const shown = result.leaks.find((leak) => isSame(leak, chosen)) ?? result.leaks[0];
  return (
    <section aria-label="Timeline">
      <h2 className="border-b-2 border-ink pb-1 font-title text-xl">Where it is heard</h2>
      {tracks.map((track) => {
        const leaks = result.leaks.filter((one) => one.track === track);
        const references = [...new Set(leaks.map(({ reference }) => reference))];
        const inspected = check.inspected?.tracks[track - 1];
        return (
          <div
            key={track}
            className="mt-2 grid grid-cols-[10rem_minmax(0,1fr)] items-center gap-x-3 narrow:grid-cols-1"
          >
            <span className="truncate text-sm font-semibold">
              {track} {inspected?.name ?? ''}
            </span>
            <Outline
              outline={inspected?.outline ?? []}
              label={`Waveform of track ${track}`}
              className="h-10"
            />
            {references.map((reference) => (
              <Lane
                key={reference}
                reference={reference}
                leaks={leaks.filter((one) => one.reference === reference)}
                lengthS={lengthS}
                chosen={shown}
                onChoose={choose}
              />
            ))}
          </div>
        );
      })}
      <div className="mt-0.5 ml-[10.75rem] flex justify-between text-xs text-soft narrow:ml-0">
        {[0, 0.25, 0.5, 0.75, 1].map((share) => (
          <span key={share}>{formatClock(share * lengthS)}</span>
        ))}
      </div>
      {shown && <Place leak={shown} />}
      <ol aria-label="Places" className="mt-3 grid gap-x-6 text-sm sm:grid-cols-2 lg:grid-cols-3">
        {result.leaks.slice(0, MOST_LISTED).map((leak) => (
          <li key={`${leak.reference} ${leak.track} ${leak.startS}`} className="border-b border-rule">
            <button
              type="button"
              aria-pressed={isSame(leak, shown)}
              className={clsx(
                'w-full px-1 py-1 text-left hover:bg-sunk',
                isSame(leak, shown) && 'bg-water-pale/40 font-semibold',
              )}
              onClick={() => choose(leak)}
            >
              {fromTo(leak)} {leak.reference} in track {leak.track}, {formatDb(leak.levelDb)} dB
            </button>
          </li>
        ))}
      </ol>
      {result.leaks.length > MOST_LISTED && (
        <p className="text-sm text-soft">and {result.leaks.length - MOST_LISTED} more, drawn above</p>
      )}
    </section>
  );
}

function Lane({
  reference,
  leaks,
  lengthS,
  chosen,
  onChoose,
}: {
  reference: string;
  leaks: LeakInterval[];
  lengthS: number;
  chosen: LeakInterval | null;
  onChoose: (leak: LeakInterval) => void;
}) {
  return (
    <>
      <span className="truncate text-xs text-soft" title={reference}>
        {reference}
      </span>
      <div className="relative h-5 border-x border-b border-rule bg-sunk/50">
        {leaks.map((leak) => (
          <button
            key={leak.startS}
            type="button"
            tabIndex={-1}
            title={`${reference}: ${formatClock(leak.startS)}–${formatClock(leak.endS)}, ${formatDb(leak.levelDb)} dB`}
            aria-label={`${reference} in track ${leak.track} from ${formatClock(leak.startS)}`}
            className={clsx(
              'absolute inset-y-0.5 min-w-1 border border-clay bg-clay-pale',
              isSame(leak, chosen) && 'outline-2 outline-ink',
            )}
            style={{
              left: `${(100 * leak.startS) / lengthS}%`,
              width: `${(100 * (leak.endS - leak.startS)) / lengthS}%`,
            }}
            onClick={() => onChoose(leak)}
          />
        ))}
      </div>
    </>
  );
}

/** One place: plays the track there and the sound alone, at the same loudness. */
function Place({ leak }: { leak: LeakInterval }) {
  const { playing, play, change, stop } = usePassages();
  const inTrack = { track: leak.track, atS: leak.startS };
  const alone = { reference: leak.reference, atS: leak.startS - leak.offsetMs / 1000 };
  const sounds = [
    { heard: inTrack, name: `Track ${leak.track}`, isOn: isPlaying(playing, inTrack) },
    { heard: alone, name: `${leak.reference} alone`, isOn: isPlaying(playing, alone) },
  ];
  const isAnyOn = sounds.some(({ isOn }) => isOn);
  return (
    <div className="mt-3 border-l-4 border-clay bg-sheet px-3 py-2">
      <p>
        <strong>
          {leak.reference} in track {leak.track}
        </strong>{' '}
        {fromTo(leak)}, {formatDb(leak.levelDb)} dB compared to the original
        {Math.abs(leak.offsetMs) >= 1 ? `, ${lateWords(leak.offsetMs)}` : ''}. {leakNotes(leak).join(' ')}
      </p>
      <p className="mt-1.5 flex flex-wrap items-center gap-2">
        <span className="text-sm text-soft">Compare by ear, at the same loudness:</span>
        {sounds.map(({ heard, name, isOn }) => (
          <Button
            key={name}
            aria-pressed={isOn}
            className={isOn ? 'border-water font-semibold text-water' : ''}
            onClick={() => (isAnyOn && !isOn ? change(heard) : play(heard))}
          >
            {name}
          </Button>
        ))}
        {isAnyOn && <Button onClick={stop}>Stop</Button>}
      </p>
    </div>
  );
}

/** Says from when to when: "0:20–0:50", "0:50" for a moment. */
function fromTo({ startS, endS }: LeakInterval): string {
  const [from, to] = [formatClock(startS), formatClock(endS)];
  return from === to ? from : `${from}–${to}`;
}

function isPlaying(
  playing: { track?: number; reference?: string; atS: number } | null,
  heard: { track?: number; reference?: string; atS: number },
): boolean {
  return (
    playing !== null &&
    playing.track === heard.track &&
    playing.reference === heard.reference &&
    playing.atS === heard.atS
  );
}

function isSame(one: LeakInterval, other: LeakInterval | null): boolean {
  return (
    other !== null &&
    one.reference === other.reference &&
    one.track === other.track &&
    one.startS === other.startS
  );
}

/** Says an offset: a record that enters an hour in is no delay. */
function lateWords(offsetMs: number): string {
  const seconds = Math.abs(offsetMs) / 1000;
  const size = seconds < 1 ? `${Math.abs(offsetMs).toFixed(0)} ms` : formatClock(seconds);
  if (seconds >= 1) return offsetMs > 0 ? `begun at ${size}` : `without its first ${size}`;
  return `${size} ${offsetMs > 0 ? 'late' : 'early'}`;
}
