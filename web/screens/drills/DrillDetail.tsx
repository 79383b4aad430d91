import { useMemo } from 'react';
import { type Drill, type DrillResult, safeguardsFor } from '../../../core/drills/drills.ts';
import { formatDb, today } from '../../format.ts';
import { Button } from '../../parts/controls.tsx';
import { SeverityMark } from '../../parts/severity.tsx';
import { useSetup } from '../../setupContext.tsx';

/** One drill: what each destination would lose and gain, side by side with now, its findings, and how to be safe. */
export function DrillDetail({ drill, result }: { drill: Drill; result: DrillResult }) {
  const { setup, actions } = useSetup();
  const isScene = drill.kind === 'scene';
  const safeguards = useMemo(() => safeguardsFor(setup, drill, today()), [setup, drill]);
  const destinations = [...new Set(result.changes.map((change) => change.destination))];
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls, and may hold nothing else that the keyboard comes to
    <section tabIndex={0} className="space-y-5 overflow-auto px-6 py-4" aria-label={drill.label}>
      <h2 className="font-title text-xl">{drill.label}</h2>
      {destinations.length === 0 ? (
        <p>Nobody would hear a difference.</p>
      ) : (
        <div className="overflow-x-auto">
          <table className="w-full border-collapse" aria-label="What would change">
            <thead>
              <tr className="border-b border-soft text-left text-xs text-soft">
                <th className="py-1 font-normal">Destination</th>
                <th className="font-normal">Source</th>
                <th className="text-right font-normal">now</th>
                <th className="text-right font-normal">then</th>
                <td className="pl-4" />
              </tr>
            </thead>
            <tbody>
              {destinations.flatMap((destination) =>
                result.changes
                  .filter((change) => change.destination === destination)
                  .map((change, index) => (
                    <tr
                      key={`${destination} ${change.source}`}
                      className={index === 0 ? 'border-t border-rule' : undefined}
                    >
                      <td className="py-0.5 pr-4 font-semibold">
                        {index === 0 ? result.names.get(destination) : ''}
                      </td>
                      <td className="pr-4">{result.names.get(change.source)}</td>
                      <td className="text-right">{level(change.beforeDb)}</td>
                      <td className="text-right">{level(change.afterDb)}</td>
                      <td className="pl-4 text-sm">
                        {change.afterDb === null ? (
                          <strong className="text-reed">lost</strong>
                        ) : change.beforeDb === null ? (
                          <strong className="text-heather">gained</strong>
                        ) : (
                          <span className="text-soft">moves</span>
                        )}
                      </td>
                    </tr>
                  )),
              )}
            </tbody>
          </table>
        </div>
      )}
      {result.findings.length > 0 && (
        <section>
          <h3 className="border-b border-soft text-xs text-soft">
            {isScene ? 'What is wrong in this scene' : 'What it would bring'}
          </h3>
          <ul>
            {result.findings.map((finding) => (
              <li key={finding.id} className="flex items-baseline gap-3 border-b border-rule py-1.5">
                <span className="w-16 shrink-0 text-[13px]">
                  <SeverityMark severity={finding.severity} />
                </span>
                <span className="leading-snug">{finding.message}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
      {result.findings.length > 0 && (
        <section aria-label="Safeguards">
          <h3 className="border-b border-soft text-xs text-soft">
            {isScene ? 'What mends it' : 'To be safe against it'}
          </h3>
          {safeguards.length === 0 ? (
            <p className="py-2">
              No change was found that helps.{' '}
              {isScene ? 'See Reach for why.' : 'Watch the meters when it happens.'}
            </p>
          ) : (
            <ul>
              {safeguards.map((safeguard, index) => (
                <li
                  key={safeguard.label}
                  className="flex items-start justify-between gap-3 border-b border-rule py-2"
                >
                  <span className="leading-snug">
                    {safeguard.label}
                    {safeguard.handwork.map((step) => (
                      <span key={step} className="block border-l-2 border-reed pl-2 text-[13px]">
                        {step}
                      </span>
                    ))}
                  </span>
                  <Button
                    weight={index === 0 ? 'main' : 'plain'}
                    onClick={() => actions.edit(safeguard.edit)}
                  >
                    {safeguard.handwork.length > 0 ? 'Done' : 'Apply'}
                  </Button>
                </li>
              ))}
            </ul>
          )}
        </section>
      )}
    </section>
  );
}

function level(gainDb: number | null): string {
  return gainDb === null ? '–' : `${formatDb(gainDb)} dB`;
}
