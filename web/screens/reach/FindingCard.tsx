import { memo, useState } from 'react';
import type { Finding } from '../../../core/findings/finding.ts';
import type { CauseReport } from '../../../core/repair/report.ts';
import type { Edit } from '../../../core/setup/edits.ts';
import type { ShownCause } from '../../causes.tsx';
import { useHeard } from '../../heard.tsx';
import { Button } from '../../parts/controls.tsx';
import { fieldClass } from '../../parts/FigureField.tsx';
import { RouteCardView } from '../../parts/RouteCardView.tsx';
import { SeverityMark } from '../../parts/severity.tsx';
import { TermsIn } from '../../parts/Term.tsx';
import { HearButton } from './HearButton.tsx';
import { RemedyList } from './RemedyList.tsx';

interface FindingCardProps {
  cause: ShownCause;
  open: boolean;
  /** Whether its route cards are shown elsewhere already. */
  withoutCards: boolean;
  /** Goes to the cell that one of its findings is about. */
  onGo: (cause: ShownCause, finding: Finding) => void;
  onOpen: (cause: ShownCause) => void;
  onApply: (edit: Edit) => void;
}

/**
 * A cause: the sentence of its gravest finding, and when it is opened the route cards, what mends it, and what else it brings. It is memoised
 * so that a key on the board does not render every card again.
 */
export const FindingCard = memo(function FindingCard({
  cause,
  open,
  withoutCards,
  onGo,
  onOpen,
  onApply,
}: FindingCardProps) {
  const { finding, brings, report: known } = cause;
  const report = typeof known === 'string' ? null : known;
  const measured = useHeard()?.confirmed.get(finding.id);
  const others = brings.length - 1;
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
        onClick={() => onOpen(cause)}
        className="block w-full text-left hover:text-water"
      >
        <span className="flex items-center gap-2 text-[13px]">
          <SeverityMark severity={finding.severity} />
          <span className="text-soft">{finding.code}</span>
        </span>
        {report?.name && <strong className="block leading-snug font-semibold">{report.name}</strong>}
        <span className={report?.name ? 'block text-sm leading-snug' : 'block leading-snug'}>
          {finding.message}
        </span>
        {others > 0 && !open && (
          <span className="block text-xs text-soft">
            brings {others} more {others === 1 ? 'finding' : 'findings'}
          </span>
        )}
        {measured && <span className="block text-xs text-soft">{measured.finding.message}</span>}
      </button>
      {open && (
        <div className="mt-2 space-y-2">
          <TermsIn text={`${report?.name ?? ''} ${finding.message}`} />
          {!withoutCards && finding.paths.map((card, index) => <RouteCardView key={index} card={card} />)}
          {report ? (
            <Remedies report={report} onApply={onApply} />
          ) : (
            <p className="text-sm text-soft" data-testid="looking">
              {known === 'failed'
                ? 'Northfen failed while it looked for what mends this. Change something, or load the page again.'
                : 'Looking for what mends this …'}
            </p>
          )}
          {others > 0 && <Brought brings={brings.slice(1)} onGo={(one) => onGo(cause, one)} />}
          <MeantForm brings={brings} onApply={onApply} />
        </div>
      )}
    </li>
  );
});

/** The others that one cause brings, folded. */
function Brought({ brings, onGo }: { brings: Finding[]; onGo: (finding: Finding) => void }) {
  return (
    <details>
      <summary className="text-sm text-soft">
        The same cause brings {brings.length} more {brings.length === 1 ? 'finding' : 'findings'}
      </summary>
      <ul className="mt-1 space-y-1.5 border-l-2 border-rule pl-2 text-sm">
        {brings.map((one) => (
          <li key={one.id} data-brought={one.code}>
            <button type="button" onClick={() => onGo(one)} className="text-left hover:text-water">
              <SeverityMark severity={one.severity} /> {one.message}
            </button>
          </li>
        ))}
      </ul>
    </details>
  );
}

const WHY_NONE = {
  'others first': 'What mends this depends on the others. Mend those first, and look again.',
  'no change':
    'Nothing that Northfen can change mends this without taking away something that you want. Follow the sound on Wiring, or change what you want.',
  'not looked for': 'This setup is very large. Mend what stands above first; then Northfen looks further.',
} as const;

function Remedies({ report, onApply }: { report: CauseReport; onApply: (edit: Edit) => void }) {
  const [all, setAll] = useState(false);
  const { remedies, givingUp, whyNone } = report;
  const shown = all ? remedies : remedies.slice(0, 1);
  return (
    <>
      {whyNone && <p className="text-sm text-soft">{WHY_NONE[whyNone]}</p>}
      <RemedyList remedies={shown} isFirstMain onApply={onApply} />
      {remedies.length > shown.length && (
        <Button weight="quiet" onClick={() => setAll(true)}>
          {remedies.length - shown.length === 1
            ? '1 other way'
            : `${remedies.length - shown.length} other ways`}
        </Button>
      )}
      {givingUp.length > 0 && (
        <details>
          <summary className="text-sm text-soft">I do not want this after all …</summary>
          <div className="mt-1.5 border-l-2 border-rule pl-2">
            <RemedyList remedies={givingUp} onApply={onApply} />
          </div>
        </details>
      )}
    </>
  );
}

/** Says that a finding is meant to be so, with a note; all that its cause brings go with it. */
function MeantForm({ brings, onApply }: { brings: Finding[]; onApply: (edit: Edit) => void }) {
  const [note, setNote] = useState('');
  const accept = () => {
    const edits = brings.map((one) => ({
      edit: 'acceptFinding' as const,
      finding: one.id,
      facts: one.message,
      ...(note.trim() && { note: note.trim() }),
    }));
    onApply({ edit: 'batch', label: 'say that this is meant', edits });
  };
  return (
    <details>
      <summary className="text-sm text-soft">This is meant …</summary>
      <form
        className="mt-1.5 flex items-end gap-2 border-l-2 border-rule pl-2"
        onSubmit={(event) => {
          event.preventDefault();
          accept();
        }}
      >
        <label className="min-w-0 flex-1 text-xs text-soft">
          Why (for later)
          <input
            className={`${fieldClass} block w-full text-sm text-ink`}
            value={note}
            maxLength={500}
            placeholder="for example: the echo is an effect"
            onChange={(event) => setNote(event.target.value)}
          />
        </label>
        <Button type="submit">It is meant</Button>
      </form>
    </details>
  );
}
