import { useMemo } from 'react';
import { whyInseparable } from '../../../core/repair/moves/separate.ts';
import { separationsOf } from '../../../core/repair/remedies.ts';
import type { Source } from '../../../core/setup/schema.ts';
import { today } from '../../format.ts';
import { Button } from '../../parts/controls.tsx';
import { Sheet } from '../../parts/Sheet.tsx';
import { useSetup } from '../../setupContext.tsx';
import { EffectList } from './RemedyList.tsx';

/** The rewirings that would let a source be sent apart from those that it is fused with. */
export function SeparateSheet({ source, onClose }: { source: Source; onClose: () => void }) {
  const { setup, actions } = useSetup();
  const ways = useMemo(() => separationsOf(setup, source, today()), [setup, source]);
  return (
    <Sheet title={`Separate ${source.name}`} onClose={onClose}>
      {ways.length === 0 && <p>{whyInseparable(setup, source)}</p>}
      <ul className="space-y-4">
        {ways.map((way, index) => (
          <li key={way.label} className="border border-rule bg-sheet p-3">
            <p className="font-semibold">{way.label}</p>
            <ol className="my-2 list-decimal space-y-0.5 pl-6">
              {way.handwork.map((step) => (
                <li key={step}>{step}</li>
              ))}
            </ol>
            <div className="flex items-center justify-between gap-3">
              <EffectList effects={way.effects} />
              <Button
                weight={index === 0 ? 'main' : 'plain'}
                onClick={() => {
                  actions.edit(way.edit);
                  onClose();
                }}
              >
                Apply
              </Button>
            </div>
          </li>
        ))}
      </ul>
    </Sheet>
  );
}
