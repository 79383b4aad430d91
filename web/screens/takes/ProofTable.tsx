import { clsx } from 'clsx';
import { useState } from 'react';
import { THRESHOLDS } from '../../../core/measure/presence/thresholds.ts';
import { isContradiction, isLeak, type ProofLine } from '../../../core/proof/proof.ts';
import type { Take } from '../../api/types.ts';
import { formatClock, formatDb } from '../../format.ts';
import { Button } from '../../parts/controls.tsx';
import { Mark } from '../../parts/Mark.tsx';
import { usePlayer } from './player.tsx';
import { lookOf } from './verdicts.ts';

/** The proof: for each source and each track what was measured, and on a click the plan and the places beside it. */
export function ProofTable({ take }: { take: Take }) {
  const { sources, tracks } = take.setup;
  const worst = take.proof.find(isLeak) ?? take.proof.find(isContradiction) ?? null;
  const [chosen, setChosen] = useState<ProofLine | null>(worst);
  const lines = new Map(take.proof.map((line) => [`${line.sourceId} ${line.trackId}`, line]));
  return (
    <section aria-label="Proof" className="space-y-2">
      <div className="flex items-baseline gap-4">
        <h2 className="font-title text-xl">Proof</h2>
        <p className="text-sm text-soft">
          Measured in the file as it was written: the level of each source (dB) where it was found. Set for
          less than one false alarm in {Math.round(1 / THRESHOLDS.falseAlarms)} unrelated sounds.
        </p>
      </div>
      <div className="overflow-x-auto">
        <div className="overflow-x-auto">
          <table className="border-collapse text-sm" aria-label="Proof by source and track">
            <thead>
              <tr>
                <td />
                {tracks.map((track, index) => (
                  <th
                    key={track.id}
                    scope="col"
                    className="w-24 border-b border-soft px-1.5 pb-0.5 text-left align-bottom leading-tight font-semibold"
                  >
                    <span className="block text-[11px] font-normal text-soft">{index + 1}</span>
                    {track.name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {sources.map((source) => (
                <tr key={source.id}>
                  <th
                    scope="row"
                    className="border-b border-rule pr-4 text-left font-semibold whitespace-nowrap"
                  >
                    {source.name}
                  </th>
                  {tracks.map((track) => {
                    const line = lines.get(`${source.id} ${track.id}`);
                    return (
                      <td key={track.id} className="border-r border-b border-rule p-0">
                        {line && (
                          <ProofCell
                            line={line}
                            label={`${source.name} in ${track.name}`}
                            isChosen={line === chosen}
                            onChoose={() => setChosen(line)}
                          />
                        )}
                      </td>
                    );
                  })}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </div>
      {chosen && <ProofDetail take={take} line={chosen} />}
    </section>
  );
}

function ProofCell({
  line,
  label,
  isChosen,
  onChoose,
}: {
  line: ProofLine;
  label: string;
  isChosen: boolean;
  onChoose: () => void;
}) {
  const look = lookOf(line);
  return (
    <button
      type="button"
      onClick={onChoose}
      aria-label={`${label}: ${look.word}, ${look.meaning}`}
      aria-pressed={isChosen}
      data-verdict={isLeak(line) ? 'leak' : line.verdict}
      className={clsx(
        'flex h-7 w-full min-w-20 items-center gap-1 px-1.5 whitespace-nowrap',
        look.className,
        isChosen && 'shadow-[inset_0_0_0_2px_var(--ink)]',
      )}
    >
      {look.mark && <Mark path={look.mark} />}
      {look.word}
    </button>
  );
}

function ProofDetail({ take, line }: { take: Take; line: ProofLine }) {
  const player = usePlayer();
  const source = take.setup.sources.find((one) => one.id === line.sourceId);
  const track = take.setup.tracks.find((one) => one.id === line.trackId);
  const look = lookOf(line);
  return (
    <div aria-live="polite" className="border-l-4 border-rule pl-3 text-sm">
      <p>
        <strong>
          {source?.name} in “{track?.name}”
        </strong>
        : {look.meaning}. Planned {line.plannedDb === null ? 'closed' : `${formatDb(line.plannedDb)} dB`},
        measured {line.measuredDb === null ? 'nothing' : `${formatDb(line.measuredDb)} dB`}
        {line.offsetMs !== null && lateText(line.offsetMs)}.
        {line.verdict !== 'silent' &&
          line.measuredDb !== null &&
          ` Certain to ${Math.min(99.99, line.confidence * 100).toFixed(2)} %.`}
      </p>
      {line.intervals.length > 0 && (
        <p className="mt-1 flex flex-wrap items-center gap-1.5">
          <span className="text-soft">Hear it at</span>
          {line.intervals.slice(0, 12).map((interval) => (
            <Button key={interval.startS} onClick={() => player.playAt(line.trackId, interval.startS)}>
              {formatClock(interval.startS)} – {formatClock(interval.endS)}
            </Button>
          ))}
        </p>
      )}
    </div>
  );
}

/** Says an offset in time: "12.0 ms late". */
function lateText(offsetMs: number): string {
  const ms = Math.abs(offsetMs).toFixed(1);
  return ms === '0.0' ? ', on time' : `, ${ms} ms ${offsetMs > 0 ? 'late' : 'early'}`;
}
