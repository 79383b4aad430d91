import { useMemo, useState } from 'react';
import type { Finding } from '../../../core/findings/finding.ts';
import { type Remedy, remediesFor } from '../../../core/repair/remedies.ts';
import type { Edit } from '../../../core/setup/edits.ts';
import type { Setup } from '../../../core/setup/schema.ts';
import { today } from '../../format.ts';
import { useHeard } from '../../heard.tsx';
import { Button } from '../../parts/controls.tsx';
import { RouteCardView } from '../../parts/RouteCardView.tsx';
import { SeverityMark } from '../../parts/severity.tsx';
import { useSettled } from '../../parts/useSettled.ts';
import { knownFindings } from '../../setupFindings.ts';
import { HearButton } from './HearButton.tsx';

interface FindingCardProps {
  setup: Setup;
  finding: Finding;
  open: boolean;
  /** Whether its route cards are shown elsewhere already. */
  withoutCards: boolean;
  /** Everything that its cause brings, itself first. */
  brings: Finding[];
  /** Goes to the cell that one of them is about. */
  onGo: (finding: Finding) => void;
  onOpen: () => void;
  onApply: (edit: Edit) => void;
}

/** A finding: its sentence, and when it is opened the route cards that cause it and the remedies. */
export function FindingCard({
  setup,
  finding,
  open,
  withoutCards,
  brings,
  onGo,
  onOpen,
  onApply,
}: FindingCardProps) {
  const measured = useHeard()?.confirmed.get(finding.id);
  return (
    <li className="border-b border-rule py-2" data-finding={finding.code}>
      {open && (
        <span className="float-right text-[13px]">
          <HearButton finding={finding} />
        </span>
      )}
      <button
        type="button"
        aria-expanded={open}
        onClick={onOpen}
        className="block w-full text-left hover:text-water"
      >
        <span className="flex items-center gap-2 text-[13px]">
          <SeverityMark severity={finding.severity} />
          <span className="text-soft">{finding.code}</span>
        </span>
        <span className="block leading-snug">{finding.message}</span>
        {brings.length > 1 && !open && (
          <span className="block text-xs text-soft">
            brings {brings.length - 1} more {brings.length === 2 ? 'finding' : 'findings'}
          </span>
        )}
        {measured && <span className="block text-xs text-soft">{measured.finding.message}</span>}
      </button>
      {open && (
        <FindingDetail setup={setup} finding={finding} withoutCards={withoutCards} onApply={onApply} />
      )}
      {open && brings.length > 1 && (
        <details className="mt-2">
          <summary className="text-sm text-soft">
            The same cause brings {brings.length - 1} more {brings.length === 2 ? 'finding' : 'findings'}
          </summary>
          <ul className="mt-1 space-y-1.5 border-l-2 border-rule pl-2 text-sm">
            {brings.slice(1).map((one) => (
              <li key={one.id} data-brought={one.code}>
                <button type="button" onClick={() => onGo(one)} className="text-left hover:text-water">
                  <SeverityMark severity={one.severity} /> {one.message}
                </button>
              </li>
            ))}
          </ul>
        </details>
      )}
    </li>
  );
}

function FindingDetail({
  setup,
  finding,
  withoutCards,
  onApply,
}: Pick<FindingCardProps, 'setup' | 'finding' | 'withoutCards' | 'onApply'>) {
  const known = useSettled(setup, 150);
  const isKnown = known === setup;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the finding goes with its setup
  const remedies = useMemo(
    () => remediesFor(known, finding, today(), knownFindings(known)),
    [known, finding.id],
  );
  const [all, setAll] = useState(false);
  const mending = remedies.filter(({ givesUp }) => givesUp.length === 0);
  const givingUp = remedies.filter(({ givesUp }) => givesUp.length > 0);
  const shown = all ? mending : mending.slice(0, 2);
  return (
    <div className="mt-2 space-y-2">
      {!withoutCards && finding.paths.map((card, index) => <RouteCardView key={index} card={card} />)}
      {isKnown && mending.length === 0 && (
        <p className="text-sm text-soft">
          No change mends this without taking away something that is wanted. Look at the path of the sound on
          Wiring.
        </p>
      )}
      <RemedyList remedies={shown} isFirstMain isKnown={isKnown} onApply={onApply} />
      {mending.length > shown.length && (
        <Button weight="quiet" onClick={() => setAll(true)}>
          {mending.length - shown.length} more
        </Button>
      )}
      {givingUp.length > 0 && (
        <details>
          <summary className="text-sm text-soft">I do not want this after all …</summary>
          <div className="mt-1.5 border-l-2 border-rule pl-2">
            <RemedyList remedies={givingUp} isKnown={isKnown} onApply={onApply} />
          </div>
        </details>
      )}
    </div>
  );
}

/** What can be done, each with what is done by hand, what it leaves, and what it gives up. */
function RemedyList({
  remedies,
  isFirstMain = false,
  isKnown,
  onApply,
}: {
  remedies: Remedy[];
  isFirstMain?: boolean;
  isKnown: boolean;
  onApply: (edit: Edit) => void;
}) {
  return (
    <ul className="space-y-1.5">
      {remedies.map((remedy, index) => (
        <li key={remedy.label} className="flex items-start justify-between gap-2">
          <span className="leading-snug">
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
            <span className="block text-xs text-soft">
              {remedy.handwork.length > 0 && 'by hand, '}
              {remedy.findingsAfter === 0
                ? 'then no finding is left'
                : `then ${remedy.findingsAfter} ${remedy.findingsAfter === 1 ? 'finding is' : 'findings are'} left`}
            </span>
          </span>
          <Button
            weight={isFirstMain && index === 0 ? 'main' : 'plain'}
            disabled={!isKnown}
            title={
              remedy.handwork.length > 0
                ? 'Assume that these steps are done; the set-up sheet keeps them'
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
