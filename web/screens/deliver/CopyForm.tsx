import { useState } from 'react';
import type { DeliveryOrder } from '../../../core/deliver/records.ts';
import { Button, fieldClass } from '../../parts/controls.tsx';

type Container = Extract<DeliveryOrder, { kind: 'rewrap' }>['container'];
const CONTAINERS: Container[] = ['mp4', 'mov', 'mkv'];

/** The recording in another container, or a damaged one saved. */
export function CopyForm({ onMake }: { onMake: (order: DeliveryOrder) => void }) {
  const [container, setContainer] = useState<Container>('mp4');
  return (
    <section aria-label="Copy or repair">
      <h2 className="border-b-2 border-ink pb-1 font-title text-xl">Copy or repair</h2>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-2 pt-2 text-sm">
        Copy all of it, as it is, into
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
          for an editor that does not take the recording’s own kind of file. Nothing is coded again.
        </span>
      </div>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-2 pt-2 text-sm">
        <Button onClick={() => onMake({ kind: 'repair' })}>Repair it</Button>
        <span className="text-soft">
          where the recording program died: everything up to the last whole packet is written into a new file.
        </span>
      </div>
    </section>
  );
}
