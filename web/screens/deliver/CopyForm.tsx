import { useState } from 'react';
import type { Check } from '../../../core/check/records.ts';
import type { DeliveryOrder } from '../../../core/deliver/records.ts';
import { useChecks } from '../../api/checks.ts';
import { Button, fieldClass } from '../../parts/controls.tsx';

type Container = Extract<DeliveryOrder, { kind: 'rewrap' }>['container'];
const CONTAINERS: Container[] = ['mp4', 'mov', 'mkv'];

/** The recording in another container, or a damaged one saved. */
export function CopyForm({ check, onMake }: { check: Check; onMake: (order: DeliveryOrder) => void }) {
  const [container, setContainer] = useState<Container>('mp4');
  return (
    <section aria-label="Copy or repair">
      <h2 className="border-b-2 border-ink pb-1 font-title text-xl">Copy or repair</h2>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-2 pt-2 text-sm">
        Copy the whole recording into
        <select
          aria-label="Copy into"
          className={fieldClass}
          value={container}
          onChange={(event) => setContainer(CONTAINERS.find((one) => one === event.target.value) ?? 'mp4')}
        >
          {CONTAINERS.map((one) => (
            <option key={one} value={one}>
              {one.toUpperCase()}
            </option>
          ))}
        </select>
        <Button onClick={() => onMake({ kind: 'rewrap', container })}>Copy it</Button>
        <span className="text-soft">
          for an editor that cannot open the recording as it is. Nothing is coded again.
        </span>
      </div>
      <Repair check={check} onMake={onMake} />
    </section>
  );
}

/** Kinds of files that have an index, without which they cannot be read. */
const INDEXED = /\.(mp4|mov|m4v|m4a)$/i;

function Repair({ check, onMake }: { check: Check; onMake: (order: DeliveryOrder) => void }) {
  const checks = useChecks();
  const [like, setLike] = useState('');
  const whole = (checks.data ?? []).filter(
    ({ id, name, trackCount }) => id !== check.id && trackCount !== null && INDEXED.test(name),
  );
  const isUnread = check.inspected === null && INDEXED.test(check.name);
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-2 pt-2 text-sm">
      <Button onClick={() => onMake({ kind: 'repair', ...(like && { like }) })}>Repair it</Button>
      {isUnread && (
        <label className="flex flex-wrap items-center gap-x-2">
          with the help of
          <select
            className={`${fieldClass} max-w-72`}
            value={like}
            onChange={(event) => setLike(event.target.value)}
            aria-label="Whole recording to go by"
          >
            <option value="">no other recording</option>
            {whole.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </select>
        </label>
      )}
      <span className="text-soft">
        if the recording program crashed: everything that can still be read goes into a new file.
        {isUnread &&
          ' If its index is missing, choose a whole recording made by the same program with the same settings: from that one Northfen learns where sound and picture lie.'}
        {isUnread &&
          whole.length === 0 &&
          ' The list has no other MP4 or MOV that can be read; add one first.'}
      </span>
    </div>
  );
}
