import { roleOf } from '../../../core/balance/aims.ts';
import { processingFrom } from '../../../core/processors/fromSample.ts';
import type { Processing } from '../../../core/processors/processing.ts';
import type { Passage } from '../../../core/records.ts';
import type { Source } from '../../../core/setup/schema.ts';
import { useCalibration } from '../../api/sounds.ts';
import { formatClock, formatLevel } from '../../format.ts';
import { Button } from '../../parts/controls.tsx';
import { LevelHistogram } from './LevelHistogram.tsx';

interface FromSampleProps {
  source: Source;
  path: string;
  /** What of the recording is read; all of it when null. */
  passage: Passage | null;
  onSet: (processing: Processing) => void;
}

/** Proposes high-pass, noise reduction, gate and trim from what the recording is like. */
export function FromSample({ source, path, passage, onSet }: FromSampleProps) {
  const { data: found, error } = useCalibration(path, passage);
  const isVoice = roleOf(source) === 'voice';
  return (
    <section aria-label="Set it from the recording" className="mt-2">
      <h3 className="font-title text-base">Set it from the recording</h3>
      <p className="text-xs text-soft">
        {passage
          ? `Read from ${formatClock(passage.fromS)} to ${formatClock(passage.untilS)}, which is looped.`
          : 'Read from all of it; loop a passage to have that one read.'}
      </p>
      {error && <p className="text-sm text-clay">{error.message}</p>}
      {!found && !error && <p className="text-sm text-soft">Reading the recording …</p>}
      {found && (
        <>
          <LevelHistogram found={found} />
          <p className="text-sm text-soft">
            Floor {formatLevel(found.floorDb, 'dBFS')}, speech {formatLevel(found.speechDb, 'dBFS')}, a gate
            opens at {formatLevel(found.gateDb, 'dBFS')}.
          </p>
          {found.remarks.map((text) => (
            <p key={text} className="text-sm text-clay">
              {text}
            </p>
          ))}
          <Button
            className="mt-1"
            onClick={() => onSet(processingFrom(found, source.processing ?? [], isVoice))}
          >
            {isVoice ? 'Set high-pass, noise reduction, gate and trim' : 'Set high-pass, gate and trim'}
          </Button>
        </>
      )}
    </section>
  );
}
