import { useMemo } from 'react';
import { reachOf } from '../../../core/reach/reach.ts';
import type { Setup } from '../../../core/setup/schema.ts';
import type { SoundedCell, Sounding } from '../../../core/sounding/sounding.ts';
import { gainText } from '../../../core/words/figures.ts';

/** For each source and track: what is wanted, what the setup brings, and what was measured. */
export function MeasuredTable({ sounding, setup }: { sounding: Sounding; setup: Setup }) {
  const reach = useMemo(() => reachOf(setup), [setup]);
  const tracks = setup.tracks.filter(({ id }) => sounding.tracks.includes(id));
  const heard = new Set(sounding.heard.map(({ source }) => source));
  const wishes = new Map(
    setup.intent.map(({ source, destination, gainDb }) => [`${source} ${destination}`, gainDb]),
  );
  return (
    <section aria-label="Measured" className="mt-6 mb-8">
      <h2 className="border-b-2 border-ink pb-1 font-title text-xl">Wished, computed, measured</h2>
      <div className="overflow-x-auto">
        <table className="w-full border-collapse text-sm" aria-label="Wished, computed and measured levels">
          <thead>
            <tr className="text-left text-xs text-soft">
              <th className="py-1 pr-3 font-normal">Source</th>
              {tracks.map((track) => (
                <th key={track.id} className="py-1 pr-3 font-normal">
                  {setup.tracks.indexOf(track) + 1} {track.name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {setup.sources.map((source) => (
              <tr key={source.id} className="border-t border-rule align-top">
                <th className="py-1.5 pr-3 text-left font-semibold">{source.name}</th>
                {tracks.map((track) => {
                  const destination = reach.destinations.find(({ sendTo }) => sendTo === track.id);
                  return (
                    <td key={track.id} className="py-1.5 pr-3">
                      <Levels
                        wishedDb={wishes.get(`${source.id} ${destination?.id}`) ?? null}
                        computedDb={reach.onTrack(source.id, track.id)?.gainDb ?? null}
                        cell={sounding.cells.find(
                          (one) => one.source === source.id && one.track === track.id,
                        )}
                        isHeard={heard.has(source.id)}
                        differs={sounding.differences.some(
                          (one) => one.source === source.id && one.track === track.id,
                        )}
                      />
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="mt-1 text-xs text-soft">
        Levels in dB, as in the board. The upper line is measured; below it what is wished and what the setup
        brings.
      </p>
    </section>
  );
}

function Levels({
  wishedDb,
  computedDb,
  cell,
  isHeard,
  differs,
}: {
  wishedDb: number | null;
  computedDb: number | null;
  cell: SoundedCell | undefined;
  isHeard: boolean;
  differs: boolean;
}) {
  if (!isHeard) return <span className="text-soft">not heard</span>;
  if (!cell && computedDb === null && wishedDb === null) return <span className="text-soft">–</span>;
  const said = (db: number | null) => (db === null ? 'none' : gainText(db));
  return (
    <>
      <span className={`block font-semibold ${differs ? 'text-reed' : 'text-moss'}`}>
        {cell ? gainText(cell.gainDb) : 'nothing'}
        {cell && cell.copies > 1 && ` · ${cell.copies} times`}
        {cell && cell.delayMs >= 1 && ` · ${cell.delayMs.toFixed(0)} ms`}
        {differs && <span className="sr-only"> differs</span>}
      </span>
      <span className="block text-xs text-soft">
        wished {said(wishedDb)}, computed {said(computedDb)}
      </span>
    </>
  );
}
