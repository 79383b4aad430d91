import { useState } from 'react';
import type { Mark, MarkValues } from '../../core/deliver/records.ts';
import { addMarks, changeMark, type MarkOwner, removeMark } from '../api/marks.ts';
import { formatClock } from '../format.ts';
import { Button, NameField, RemoveButton } from './controls.tsx';
import { useNotify } from './notices.tsx';

/** Marks as a list: each can be heard, named and removed; the one that was removed last can be taken back. */
export function MarkList({
  owner,
  marks,
  onHear,
}: {
  owner: MarkOwner;
  marks: Mark[];
  onHear: (atS: number) => void;
}) {
  const notify = useNotify();
  const [removed, setRemoved] = useState<Mark | null>(null);
  const run = (work: Promise<unknown>) => void work.catch((error: Error) => notify('trouble', error.message));
  const takeBack = ({ atS, endS, name }: MarkValues) => {
    run(addMarks(owner, [{ atS, endS, name }]));
    setRemoved(null);
  };
  return (
    <>
      {marks.length > 0 && (
        <ul aria-label="Marks" className="mt-2 text-sm">
          {marks.map((mark) => (
            <li key={mark.id} className="flex items-center gap-3 border-b border-rule py-1">
              <Button
                weight="quiet"
                aria-label={`Hear ${mark.name}`}
                title="Hear it from here"
                className="w-28 justify-start text-water tabular-nums"
                onClick={() => onHear(mark.atS)}
              >
                {formatClock(mark.atS)}
                {mark.endS !== null && `–${formatClock(mark.endS)}`}
              </Button>
              <NameField
                value={mark.name}
                label={`Name of the mark at ${formatClock(mark.atS)}`}
                className="min-w-0 flex-1"
                onChange={(name) => run(changeMark(owner, mark.id, { atS: mark.atS, endS: mark.endS, name }))}
              />
              <RemoveButton
                label={`Remove ${mark.name}`}
                onClick={() => run(removeMark(owner, mark.id).then(() => setRemoved(mark)))}
              />
            </li>
          ))}
        </ul>
      )}
      {removed && (
        <p role="status" className="flex items-center gap-3 pt-1 text-sm text-soft">
          Removed “{removed.name}”. <Button onClick={() => takeBack(removed)}>Take it back</Button>
        </p>
      )}
    </>
  );
}
