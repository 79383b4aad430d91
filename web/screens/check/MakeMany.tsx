import { useState } from 'react';
import { Link } from 'react-router';
import type { CheckSummary } from '../../../core/check/records.ts';
import type { Delivery } from '../../../core/deliver/records.ts';
import { countText } from '../../../core/words/figures.ts';
import { orderUsual, stopDelivery, useNewestDeliveries } from '../../api/deliveries.ts';
import { Button, fieldClass, ProgressBar } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { Sheet } from '../../parts/Sheet.tsx';
import { lastGoRead, rememberGoRead } from '../../remembered.ts';

/** Makes what is usual of the recordings that are shown, in one go. */
export function MakeMany({ checks }: { checks: CheckSummary[] }) {
  const [isOpen, setOpen] = useState(false);
  const ready = checks.filter(({ state, trackCount }) => state === 'idle' && trackCount !== null);
  if (ready.length < 2) return null;
  return (
    <>
      <Button onClick={() => setOpen(true)}>Make files from {ready.length} recordings</Button>
      {isOpen && <Choices checks={ready} onClose={() => setOpen(false)} />}
    </>
  );
}

function Choices({ checks, onClose }: { checks: CheckSummary[]; onClose: () => void }) {
  const notify = useNotify();
  const [isVideo, setVideo] = useState(true);
  const [handoff, setHandoff] = useState<'wav' | 'flac' | null>('wav');
  const notClean = checks.filter(({ verdict }) => verdict !== 'clean').length;
  const make = () =>
    void orderUsual(
      checks.map(({ id }) => id),
      { isVideo, handoff },
    ).then(onClose, (error: Error) => notify('trouble', error.message));
  return (
    <Sheet title={`Make files from ${checks.length} recordings`} onClose={onClose}>
      <div className="space-y-2">
        <label className="flex items-center gap-2">
          <input type="checkbox" checked={isVideo} onChange={(event) => setVideo(event.target.checked)} />
          Video to upload, MP4 at −14 LUFS
        </label>
        <p className="flex items-center gap-3">
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={handoff !== null}
              onChange={(event) => setHandoff(event.target.checked ? 'wav' : null)}
            />
            Tracks and timeline for the editor
          </label>
          {handoff !== null && (
            <select
              aria-label="Tracks as"
              className={fieldClass}
              value={handoff}
              onChange={(event) => setHandoff(event.target.value === 'flac' ? 'flac' : 'wav')}
            >
              <option value="wav">WAV</option>
              <option value="flac">FLAC</option>
            </select>
          )}
        </p>
        <p className="text-sm text-soft">
          Each video gets the clean track of its recording, or a mix of the tracks that may be published. It
          is kept only if its check says clean.
          {notClean > 0 &&
            ` ${notClean === 1 ? 'One of them is' : `${notClean} of them are`} not clean, or not checked yet.`}
        </p>
        <div className="flex gap-2 pt-2">
          <Button weight="main" disabled={!isVideo && handoff === null} onClick={make}>
            Make them
          </Button>
          <Button onClick={onClose}>Cancel</Button>
        </div>
      </div>
    </Sheet>
  );
}

/** What is being made of any recording just now, and what came of what was ordered with it. */
export function Making({ nameOf }: { nameOf: (checkId: string) => string }) {
  const newest = useNewestDeliveries();
  const made = (newest.data ?? []).filter(({ order }) => order.kind !== 'marks');
  const open = made.filter(({ state }) => state === 'running' || state === 'waiting');
  const running = open.find(({ state }) => state === 'running');
  const notify = useNotify();
  if (open.length === 0) return <Summary made={made} nameOf={nameOf} />;
  const stopAll = () =>
    void Promise.all(open.map(({ id }) => stopDelivery(id))).catch((error: Error) =>
      notify('trouble', error.message),
    );
  return (
    <div className="space-y-1.5 border border-rule bg-sheet px-4 py-2 text-sm">
      <p className="flex items-center justify-between gap-3" role="status">
        <span className="min-w-0 break-words">
          {running ? (
            <>
              Making files from <MakeLink delivery={running} nameOf={nameOf} />: {running.phase}
            </>
          ) : (
            'Beginning …'
          )}
          {open.length > 1 && <span className="text-soft"> ({open.length - 1} more wait)</span>}
        </span>
        <Button onClick={stopAll}>{open.length > 1 ? 'Stop all' : 'Stop'}</Button>
      </p>
      <ProgressBar share={running?.progress ?? 0} label="Making files" />
    </div>
  );
}

/** Says what came of the last go, until that is put away. */
function Summary({ made, nameOf }: { made: Delivery[]; nameOf: (checkId: string) => string }) {
  const [read, setRead] = useState(lastGoRead);
  const go = made.find((one) => one.go !== null)?.go;
  if (!go || go === read) return null;
  const together = made.filter((one) => one.go === go);
  const good = together.filter(({ state, message }) => state === 'done' && message === null);
  const others = together.filter((one) => !good.includes(one));
  const putAway = () => {
    rememberGoRead(go);
    setRead(go);
  };
  return (
    <div className="border border-rule bg-sheet px-4 py-2 text-sm" role="status">
      <p className="flex items-center justify-between gap-3">
        <span>
          Files were made from {good.length} of {countText(together.length, 'recording')}.
        </span>
        <Button onClick={putAway}>Close</Button>
      </p>
      {others.map((one) => (
        <p key={one.id}>
          <MakeLink delivery={one} nameOf={nameOf} />:{' '}
          <span className="text-reed">{one.message ?? one.state}</span>
        </p>
      ))}
    </div>
  );
}

function MakeLink({ delivery, nameOf }: { delivery: Delivery; nameOf: (checkId: string) => string }) {
  return (
    <Link to={`/recordings/${delivery.checkId}/make`} className="text-water underline">
      {nameOf(delivery.checkId)}
    </Link>
  );
}
