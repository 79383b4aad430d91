import type { RemedyReport } from '../../../core/repair/report.ts';
import type { Edit } from '../../../core/setup/edits.ts';
import { Button } from '../../parts/controls.tsx';

/** As many effects are shown at once; the others fold. */
const SHOWN = 3;
const MARKS = { gained: '+', lost: '−', moved: '→' } as const;

/** What can be done, each with what is done by hand, what it changes for whom, and what it gives up. */
export function RemedyList({
  remedies,
  isFirstMain = false,
  onApply,
}: {
  remedies: RemedyReport[];
  isFirstMain?: boolean;
  onApply: (edit: Edit) => void;
}) {
  return (
    <ul className="space-y-2">
      {remedies.map((remedy, index) => (
        <li key={remedy.label} className="flex items-start justify-between gap-2">
          <div className="min-w-0 leading-snug">
            {remedy.label}
            {remedy.handwork.length > 0 && (
              <ol className="my-1 list-decimal space-y-0.5 border-l-2 border-reed pl-6 text-[13px]">
                {remedy.handwork.map((step) => (
                  <li key={step}>{step}</li>
                ))}
              </ol>
            )}
            {remedy.givesUp.length > 0 && (
              <span className="block text-xs text-clay">Then {remedy.givesUp.join('; ')}.</span>
            )}
            <EffectList effects={remedy.effects} />
          </div>
          <Button
            weight={isFirstMain && index === 0 ? 'main' : 'plain'}
            title={
              remedy.handwork.length > 0
                ? 'Say that you have done these steps; the set-up sheet keeps them'
                : undefined
            }
            onClick={() => onApply(remedy.edit)}
          >
            {remedy.handwork.length > 0 ? 'Done' : 'Apply'}
          </Button>
        </li>
      ))}
    </ul>
  );
}

/** What a change does for whom. */
export function EffectList({ effects }: { effects: RemedyReport['effects'] }) {
  const lines = effects.map(({ kind, text }) => (
    <li key={text}>
      <span aria-hidden="true" className="mr-1 inline-block w-3 text-center font-semibold">
        {MARKS[kind]}
      </span>
      {text}
    </li>
  ));
  if (effects.length === 0) return <p className="text-xs text-soft">Nobody hears a difference in level.</p>;
  return (
    <div className="text-xs text-soft" data-testid="effects">
      <ul>{lines.slice(0, SHOWN)}</ul>
      {lines.length > SHOWN && (
        <details>
          <summary>and {lines.length - SHOWN} more</summary>
          <ul>{lines.slice(SHOWN)}</ul>
        </details>
      )}
    </div>
  );
}
