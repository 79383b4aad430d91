import { useHistory } from './api/setups.ts';
import { formatMoment } from './format.ts';
import { Button } from './parts/controls.tsx';
import { Sheet } from './parts/Sheet.tsx';
import { useSetup } from './setupContext.tsx';

/** What was changed in the setup, by name, the newest first; one can go back to any of it. */
export function HistorySheet({ onClose }: { onClose: () => void }) {
  const { id, actions } = useSetup();
  const { data: entries, error, isPending } = useHistory(id, true);
  const current = entries?.find((one) => !one.undone);
  return (
    <Sheet title="History of this setup" onClose={onClose} live>
      <p className="mb-3 text-soft">
        Going back takes back everything that came after, whoever did it. It can be made again with Ctrl Y.
      </p>
      {isPending && <p className="text-soft">Opening …</p>}
      {error && <p className="text-clay">{error.message}</p>}
      {entries?.length === 0 && <p className="text-soft">Nothing was changed yet.</p>}
      {entries && entries.length > 0 && (
        <ol aria-label="Changes" className="max-h-[55vh] overflow-auto border-t border-rule">
          {entries.map((entry) => (
            <li
              key={entry.id}
              aria-current={entry === current ? 'step' : undefined}
              className="flex items-baseline justify-between gap-3 border-b border-rule py-1.5"
            >
              <span className={entry.undone ? 'text-soft line-through' : undefined}>
                {entry.label}
                <span className="block text-xs text-soft">
                  {formatMoment(entry.createdAt)}
                  {entry.undone && ', taken back'}
                  {entry === current && ', where it stands'}
                </span>
              </span>
              {!entry.undone && entry !== current && (
                <Button aria-label={`Back to here: ${entry.label}`} onClick={() => actions.back(entry.id)}>
                  Back to here
                </Button>
              )}
            </li>
          ))}
          {current && (
            <li className="flex items-baseline justify-between gap-3 py-1.5">
              <span>the beginning</span>
              <Button aria-label="Back to here: the beginning" onClick={() => actions.back(0)}>
                Back to here
              </Button>
            </li>
          )}
        </ol>
      )}
    </Sheet>
  );
}
