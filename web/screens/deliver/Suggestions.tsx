import type { Delivery, Mark, MarkValues, Suggestion } from '../../../core/deliver/records.ts';
import { stopDelivery } from '../../api/deliveries.ts';
import { formatClock } from '../../format.ts';
import { Button, ProgressBar } from '../../parts/controls.tsx';

const KINDS: { kind: Suggestion['kind']; name: string }[] = [
  { kind: 'loud', name: 'Loudest moments' },
  { kind: 'at once', name: 'People talking at once' },
  { kind: 'alert', name: 'Alerts' },
  { kind: 'silence', name: 'Silences' },
];
/** A mark is the same moment when it lies this near (s). */
const NEAR_S = 0.3;

/** Moments that may be worth a mark: looked for when asked, and taken one by one or a kind at once. */
export function Suggestions({
  marks,
  search,
  onSearch,
  onAdd,
  onHear,
}: {
  marks: Mark[];
  search: Delivery | undefined;
  onSearch: () => void;
  onAdd: (marks: MarkValues[]) => void;
  onHear: (atS: number) => void;
}) {
  const isBusy = search?.state === 'running' || search?.state === 'waiting';
  const found = search?.result?.kind === 'marks' ? search.result.suggestions : null;
  const isNew = ({ atS }: Suggestion) => marks.every((mark) => Math.abs(mark.atS - atS) > NEAR_S);
  return (
    <div className="mt-3 text-sm">
      {search && isBusy ? (
        <div className="flex items-center gap-3">
          <span className="whitespace-nowrap">Listening to every track …</span>
          <ProgressBar share={search.progress} label="Looking for moments" />
          <Button onClick={() => void stopDelivery(search.id).catch(() => {})}>Stop</Button>
        </div>
      ) : (
        <p className="flex flex-wrap items-center gap-3">
          <Button onClick={onSearch}>{found ? 'Look again' : 'Look for moments'}</Button>
          <span className="text-soft">
            {search?.state === 'failed'
              ? search.message
              : 'Finds alerts, people talking at once, the loudest moments and silences.'}
          </span>
        </p>
      )}
      {found && found.length === 0 && <p className="pt-2 text-soft">Nothing stood out.</p>}
      {found && found.length > 0 && (
        <div className="mt-2 grid gap-x-8 gap-y-3 sm:grid-cols-2">
          {KINDS.map(({ kind, name }) => {
            const all = found.filter((one) => one.kind === kind);
            const fresh = all.filter(isNew);
            if (all.length === 0) return null;
            return (
              <div key={kind}>
                <p className="flex items-center justify-between gap-2 border-b border-rule pb-1">
                  <span className="font-semibold">{name}</span>
                  {fresh.length > 0 && (
                    <Button onClick={() => onAdd(fresh.map(valuesOf))}>
                      {fresh.length === 1 ? 'Mark it' : `Mark all ${fresh.length}`}
                    </Button>
                  )}
                </p>
                <ul aria-label={name} className="flex flex-wrap gap-x-1 pt-1">
                  {all.map((one) => (
                    <li key={one.atS}>
                      <Button
                        weight="quiet"
                        className="tabular-nums"
                        title="Hear it"
                        onClick={() => onHear(one.atS)}
                      >
                        {formatClock(one.atS)}
                        {!isNew(one) && <span className="text-soft">marked</span>}
                      </Button>
                    </li>
                  ))}
                </ul>
              </div>
            );
          })}
        </div>
      )}
    </div>
  );
}

function valuesOf({ atS, endS, name }: Suggestion): MarkValues {
  return { atS, endS, name };
}
