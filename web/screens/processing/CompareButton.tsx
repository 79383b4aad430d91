import { Ear } from 'lucide-react';
import { useEffect, useMemo } from 'react';
import { asLoudWithout } from '../../../core/balance/compare.ts';
import { type Processing, stepsOn } from '../../../core/processors/processing.ts';
import { type Bearer, processingOf } from '../../../core/setup/bearers.ts';
import type { Source } from '../../../core/setup/schema.ts';
import { formatDb } from '../../format.ts';
import { Button } from '../../parts/controls.tsx';
import { useSetup } from '../../setupContext.tsx';
import { useWithAndWithout } from './useWithAndWithout.ts';

/** What is left out to compare: everything, or one step. */
export type Without = 'everything' | number;

interface CompareButtonProps {
  bearer: Bearer;
  /** The source that it is about; none for a whole. */
  source?: Source;
  /** Who listens. */
  destination: string;
  /** What is left out now. */
  without: Without | null;
  onWithout: (without: Without | null) => void;
  /** Lets another processing be heard; null ends that. */
  onCompare: (processing: Processing | null) => void;
}

/**
 * Lets something be heard without its processing, or without one step of it, as loud as with it, so that louder is not taken
 * for better. Says what is heard.
 */
export function CompareButton({
  bearer,
  source,
  destination,
  without,
  onWithout,
  onCompare,
}: CompareButtonProps) {
  const { setup } = useSetup();
  const processing = processingOf(setup, bearer);
  const other = useMemo(
    () => (typeof without === 'number' ? processing.filter((_, index) => index !== without) : []),
    [processing, without],
  );
  const isLeftOut = typeof without === 'number' ? processing[without] : stepsOn(processing)[0];
  const isComparing = without !== null && isLeftOut !== undefined && !isLeftOut.off;
  const { found, error } = useWithAndWithout(bearer, source, destination, other, isComparing);
  const instead = useMemo(
    () => (found ? asLoudWithout(found, processing, other) : null),
    [found, processing, other],
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is compared with, not who is told of it
  useEffect(() => {
    onCompare(isComparing && instead ? instead.processing : null);
    return () => onCompare(null);
  }, [isComparing, instead, bearer.kind]);
  const isAll = without === 'everything';
  return (
    <>
      <Button
        aria-pressed={isAll}
        disabled={stepsOn(processing).length === 0 || (source && !source.media)}
        className={isAll ? 'border-ink font-semibold' : ''}
        onClick={() => onWithout(isAll ? null : 'everything')}
      >
        <Ear size={15} /> {isAll ? 'Heard without it' : 'Hear it without, as loud'}
      </Button>
      {isComparing && (
        <span role="status" className="text-sm text-soft">
          {instead
            ? `${typeof without === 'number' ? `without step ${without + 1}` : 'unprocessed'}, ${formatDb(instead.gainDb)} dB so that it is as loud`
            : found
              ? 'it is silent with or without, so there is nothing to compare'
              : (error?.message ?? 'measuring both …')}
        </span>
      )}
    </>
  );
}
