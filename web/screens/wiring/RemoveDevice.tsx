import { useEffect, useState } from 'react';
import type { Device } from '../../../core/setup/wiring.ts';
import { dependantsOf } from '../../../core/setup/wiringEdits.ts';
import { Button } from '../../parts/controls.tsx';
import { Sheet } from '../../parts/Sheet.tsx';
import { useSetup } from '../../setupContext.tsx';
import { Choice } from './parts.tsx';

/** Removes a device: at once when nothing depends on it, else says what does and offers to re-home it. */
export function RemoveDevice({ device, onClose }: { device: Device; onClose: () => void }) {
  const { setup, actions } = useSetup();
  const uses = dependantsOf(setup, device.id);
  const others = setup.devices.filter(
    (one) => one.machine === device.machine && one.direction === device.direction && one.id !== device.id,
  );
  const [rehome, setRehome] = useState(others[0]?.id ?? '');
  const remove = (to: string | null) => {
    actions.edit({ edit: 'removeDevice', id: device.id, rehome: to });
    onClose();
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked once, when the dialog opens
  useEffect(() => {
    if (uses.length === 0) remove(null);
  }, []);
  if (uses.length === 0) return null;
  return (
    <Sheet title={`Remove “${device.name}”`} onClose={onClose}>
      <p>It is in use:</p>
      <ul className="my-2 list-disc pl-5">
        {uses.map((use) => (
          <li key={use}>{use}</li>
        ))}
      </ul>
      {others.length > 0 && (
        <p className="mb-3 flex items-center gap-2">
          All of this moves to
          <Choice label="Device that takes over" value={rehome} options={others} onChange={setRehome} />
          <Button weight="main" onClick={() => remove(rehome)}>
            Move and remove
          </Button>
        </p>
      )}
      <div className="flex gap-2 border-t border-rule pt-3">
        <Button weight="danger" onClick={() => remove(null)}>
          Remove these uses too
        </Button>
        <Button onClick={onClose}>Keep it</Button>
      </div>
    </Sheet>
  );
}
