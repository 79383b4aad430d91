import { EVERYWHERE, KEYS_OF } from './keys.ts';
import { KeyLegend } from './parts/KeyLegend.tsx';
import { Sheet } from './parts/Sheet.tsx';
import type { Station } from './stations.ts';

/** All keys: those of this screen, and those that work everywhere. */
export function KeysSheet({ station, onClose }: { station: Station | undefined; onClose: () => void }) {
  const here = station && KEYS_OF[station.path];
  return (
    <Sheet title="Keys" onClose={onClose}>
      {here && (
        <section className="mb-4">
          <h3 className="mb-1 font-semibold">On {station.name}</h3>
          <KeyLegend keys={here} />
        </section>
      )}
      <section>
        <h3 className="mb-1 font-semibold">Everywhere</h3>
        <KeyLegend keys={EVERYWHERE} />
      </section>
    </Sheet>
  );
}
