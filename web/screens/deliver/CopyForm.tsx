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
      <div className="flex flex-wrap items-center gap-x-3 gap-y-2 pt-2 text-sm">
        <Button onClick={() => onMake({ kind: 'repair' })}>Repair it</Button>
        <span className="text-soft">
          if the recording program crashed: everything that can still be read goes into a new file.
        </span>
      </div>
    </section>
  );
}
