import { GLOSSARY } from '../core/words/glossary.ts';
import { EVERYWHERE, KEYS_OF } from './keys.ts';
import { KeyLegend } from './parts/KeyLegend.tsx';
import { Sheet } from './parts/Sheet.tsx';
import type { Station } from './stations.ts';

/** All keys: those of this screen, and those that work everywhere; and what the words of the screens mean. */
export function KeysSheet({ station, onClose }: { station: Station | undefined; onClose: () => void }) {
  const here = station && KEYS_OF[station.path];
  return (
    <Sheet title="Keys and words" onClose={onClose}>
      {here && (
        <section className="mb-4">
          <h3 className="mb-1 font-semibold">Keys on {station.name}</h3>
          <KeyLegend keys={here} />
        </section>
      )}
      <section className="mb-4">
        <h3 className="mb-1 font-semibold">Keys everywhere</h3>
        <KeyLegend keys={EVERYWHERE} />
      </section>
      <section>
        <h3 className="mb-1 font-semibold">Words</h3>
        <dl className="space-y-1.5 text-sm">
          {GLOSSARY.map(({ word, means }) => (
            <div key={word}>
              <dt className="inline font-semibold">{word}</dt> <dd className="inline text-soft">{means}</dd>
            </div>
          ))}
        </dl>
      </section>
    </Sheet>
  );
}
