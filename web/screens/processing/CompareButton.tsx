import { Ear } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import { asLoudWithout } from '../../../core/balance/compare.ts';
import { type Bearer, processingOf } from '../../../core/setup/bearers.ts';
import { type Processing, stepsOn } from '../../../core/setup/processing.ts';
import type { Source } from '../../../core/setup/schema.ts';
import { formatDb } from '../../format.ts';
import { Button } from '../../parts/controls.tsx';
import { useSetup } from '../../setupContext.tsx';
import { useWithAndWithout } from './useWithAndWithout.ts';

interface CompareButtonProps {
  bearer: Bearer;
  /** The source that it is about; none for a whole. */
  source?: Source;
  /** Who listens. */
  ear: string;
  /** Lets another processing be heard; null ends that. */
  onCompare: (processing: Processing | null) => void;
}

/** Lets something be heard without its processing, as loud as with it, so that louder is not taken for better. */
export function CompareButton({ bearer, source, ear, onCompare }: CompareButtonProps) {
  const { setup } = useSetup();
  const [isWithout, setWithout] = useState(false);
  const processing = processingOf(setup, bearer);
  const isOn = stepsOn(processing).length > 0;
  const { found, error } = useWithAndWithout(bearer, source, ear, isWithout && isOn);
  const instead = useMemo(() => (found ? asLoudWithout(found, processing) : null), [found, processing]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is compared with, not who is told of it
  useEffect(() => {
    onCompare(isWithout && instead && isOn ? instead.processing : null);
    return () => onCompare(null);
  }, [isWithout, instead, isOn, bearer.kind]);
  return (
    <>
      <Button
        aria-pressed={isWithout}
        disabled={!isOn || (source && !source.media)}
        className={isWithout ? 'border-ink font-semibold' : ''}
        onClick={() => setWithout(!isWithout)}
      >
        <Ear size={15} /> {isWithout ? 'Heard without it' : 'Hear it without, as loud'}
      </Button>
      {isWithout && isOn && (
        <span role="status" className="text-sm text-soft">
          {instead
            ? `unprocessed, ${formatDb(instead.gainDb)} dB so that it is as loud`
            : found
              ? 'it is silent with or without, so there is nothing to compare'
              : (error?.message ?? 'measuring both …')}
        </span>
      )}
    </>
  );
}
