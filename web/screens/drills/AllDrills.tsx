import { clsx } from 'clsx';
import { countAt, type Drill, type DrillResult } from '../../../core/drills/drills.ts';
import type { Destination } from '../../../core/reach/destinations.ts';
import { Outcome } from './Outcome.tsx';

interface AllDrillsProps {
  results: { drill: Drill; result: DrillResult }[];
  destinations: Destination[];
  onOpen: (drill: string) => void;
}

/** Every drill against every destination: how many sources each would take away, bring, or move. */
export function AllDrills({ results, destinations, onOpen }: AllDrillsProps) {
  const kinds = [...new Set(results.map(({ drill }) => drill.kind))];
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls, and may hold nothing else that the keyboard comes to
    <section tabIndex={0} className="overflow-auto px-6 py-4" aria-label="All drills">
      <h2 className="font-title text-xl">All drills</h2>
      <p className="pb-2 text-sm text-soft">
        For each destination: how many sources it would lose (−) and gain (+); a dot where only levels move.
      </p>
      <div className="overflow-x-auto">
        <table className="w-full border-collapse text-sm" aria-label="All drills">
          <thead>
            <tr className="border-b border-soft text-left align-bottom text-xs text-soft">
              <th className="sticky left-0 bg-paper py-1 pr-3 font-normal">Drill</th>
              {destinations.map(({ id, name }) => (
                <th key={id} className="max-w-20 px-1 text-center font-normal">
                  {name}
                </th>
              ))}
              <th className="pl-3 text-right font-normal">Outcome</th>
            </tr>
          </thead>
          {kinds.map((kind) => (
            <tbody key={kind} className="border-b border-soft">
              {results
                .filter(({ drill }) => drill.kind === kind)
                .map(({ drill, result }) => (
                  <tr key={drill.id} className="border-t border-rule hover:bg-sunk">
                    <th scope="row" className="sticky left-0 bg-paper py-1 pr-3 text-left font-normal">
                      <button
                        type="button"
                        className="text-left hover:underline"
                        onClick={() => onOpen(drill.id)}
                      >
                        {drill.label}
                      </button>
                    </th>
                    {destinations.map(({ id, name }) => (
                      <CountCell key={id} result={result} destination={id} name={name} />
                    ))}
                    <td className="pl-3 text-right">
                      <Outcome result={result} />
                    </td>
                  </tr>
                ))}
            </tbody>
          ))}
        </table>
      </div>
    </section>
  );
}

function CountCell({
  result,
  destination,
  name,
}: {
  result: DrillResult;
  destination: string;
  name: string;
}) {
  const { lost, gained, moved } = countAt(result, destination);
  const words = [
    lost > 0 && `${lost} lost`,
    gained > 0 && `${gained} gained`,
    moved > 0 && `${moved} at another level`,
  ].filter(Boolean);
  return (
    <td
      className={clsx('px-1 text-center whitespace-nowrap', words.length === 0 && 'text-rule')}
      title={words.length > 0 ? `${name}: ${words.join(', ')}` : undefined}
    >
      {lost > 0 && <strong className="text-reed">−{lost}</strong>}
      {lost > 0 && gained > 0 && ' '}
      {gained > 0 && <strong className="text-heather">+{gained}</strong>}
      {lost === 0 && gained === 0 && moved > 0 && <span className="text-soft">·</span>}
    </td>
  );
}
