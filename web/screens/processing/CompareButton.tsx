import { Ear } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import { asLoudWithout } from '../../../core/balance/compare.ts';
import { heardSources } from '../../../core/balance/sounds.ts';
import { type Processing, stepsOn } from '../../../core/setup/processing.ts';
import type { Setup, Source } from '../../../core/setup/schema.ts';
import { useCovariances } from '../../api/sounds.ts';
import { formatDb } from '../../format.ts';
import { Button } from '../../parts/controls.tsx';

interface CompareButtonProps {
  setup: Setup;
  source: Source;
  /** Whether it is the processing on the way to one destination. */
  ownLeg: boolean;
  processing: Processing;
  /** Lets another processing be heard; null ends that. */
  onCompare: (processing: Processing | null) => void;
}

/** Lets the source be heard without its processing, as loud as with it, so that louder is not taken for better. */
export function CompareButton({ setup, source, ownLeg, processing, onCompare }: CompareButtonProps) {
  const [isWithout, setWithout] = useState(false);
  const pair = useMemo(
    () => withAndWithout(setup, source, ownLeg, processing),
    [setup, source, ownLeg, processing],
  );
  const { data: covariances, error } = useCovariances(pair, isWithout);
  const instead = useMemo(
    () => (covariances ? asLoudWithout(covariances, processing) : null),
    [covariances, processing],
  );
  const isOn = stepsOn(processing).length > 0;
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is compared with, not who is told of it
  useEffect(() => {
    onCompare(isWithout && instead && isOn ? instead.processing : null);
    return () => onCompare(null);
  }, [isWithout, instead, isOn, ownLeg]);
  return (
    <>
      <Button
        aria-pressed={isWithout}
        disabled={!isOn || !source.media}
        className={isWithout ? 'border-ink font-semibold' : ''}
        onClick={() => setWithout(!isWithout)}
      >
        <Ear size={15} /> {isWithout ? 'Heard without it' : 'Hear it without, as loud'}
      </Button>
      {isWithout && isOn && (
        <span role="status" className="text-sm text-soft">
          {instead
            ? `unprocessed, ${formatDb(instead.gainDb)} dB so that it is as loud`
            : covariances
              ? 'it is silent with or without, so there is nothing to compare'
              : (error?.message ?? 'measuring both …')}
        </span>
      )}
    </>
  );
}

/** Two sounds of the source, with and without the processing; nothing where there is no recording. */
function withAndWithout(setup: Setup, source: Source, ownLeg: boolean, processing: Processing) {
  const sound = { sourceId: source.id, delayFrames: 0, mono: false };
  const sounds = source.media
    ? [
        { ...sound, processing: stepsOn(processing) },
        { ...sound, processing: [] },
      ]
    : [];
  const bare = ownLeg
    ? setup.sources
    : setup.sources.map((one) => (one === source ? { ...one, processing: [] } : one));
  return { sources: heardSources({ sources: bare }, sounds), sounds };
}
