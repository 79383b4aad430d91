import { deleteSetup } from '../../api/setups.ts';
import type { SetupSummary } from '../../api/types.ts';
import { Button } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { Sheet } from '../../parts/Sheet.tsx';

/** Asks before a setup is deleted, since that cannot be undone. */
export function RemoveSetup({
  setup: { id, name },
  onRemoved,
  onClose,
}: {
  setup: Pick<SetupSummary, 'id' | 'name'>;
  onRemoved: () => void;
  onClose: () => void;
}) {
  const notify = useNotify();
  return (
    <Sheet title={`Delete “${name}”?`} onClose={onClose}>
      <p className="mb-4">
        The setup, its history and its takes are deleted from this computer. This cannot be undone. Export the
        setup first if you may want it again.
      </p>
      <div className="flex gap-2">
        <Button
          weight="danger"
          onClick={() =>
            deleteSetup(id)
              .then(() => {
                onClose();
                onRemoved();
              })
              .catch((error: Error) => notify('trouble', error.message))
          }
        >
          Delete the setup
        </Button>
        <Button onClick={onClose}>Keep it</Button>
      </div>
    </Sheet>
  );
}
