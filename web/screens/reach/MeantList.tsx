import type { Parted } from '../../../core/findings/accepted.ts';
import type { Edit } from '../../../core/setup/edits.ts';
import { Button } from '../../parts/controls.tsx';

/** The findings that are meant to be so, each with its note, and how to count it again. */
export function MeantList({ meant, onEdit }: { meant: Parted['meant']; onEdit: (edit: Edit) => void }) {
  if (meant.length === 0) return null;
  return (
    <details className="pt-3" data-testid="meant">
      <summary className="text-sm text-soft">
        {meant.length === 1 ? '1 finding is meant' : `${meant.length} findings are meant`}
      </summary>
      <ul className="border-l-2 border-rule pl-2">
        {meant.map(({ finding, note }) => (
          <li
            key={finding.id}
            className="flex items-start justify-between gap-2 border-b border-rule py-1.5 text-sm"
          >
            <span className="leading-snug">
              {finding.message}
              {note && <span className="block text-xs text-soft">“{note}”</span>}
            </span>
            <Button onClick={() => onEdit({ edit: 'acceptFinding', finding: finding.id, facts: null })}>
              Count it again
            </Button>
          </li>
        ))}
      </ul>
    </details>
  );
}
