import { useState } from 'react';
import { leftOutLine } from '../../../core/deliver/leftOut.ts';
import type { Delivery } from '../../../core/deliver/records.ts';
import { countText } from '../../../core/words/figures.ts';
import { makeAgain, removeDelivery, stopDelivery } from '../../api/deliveries.ts';
import { formatBytes, formatMoment } from '../../format.ts';
import { Button, ProgressBar } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { Sheet } from '../../parts/Sheet.tsx';
import { MadeCopy, MadeFiles, MadeJoin, MadeRescue } from './MadeResult.tsx';

/** What is being made of a recording, and was: how far it is, what came of it, and its files. */
export function MadeList({
  checkId,
  deliveries,
  onUse,
}: {
  checkId: string;
  deliveries: Delivery[];
  /** A rescued track goes into the video. */
  onUse: (rescueId: string, track: number) => void;
}) {
  if (deliveries.length === 0) return <div id="made" />;
  return (
    <section aria-label="Made" id="made" className="scroll-mt-2">
      <h2 className="border-b-2 border-ink pb-1 font-title text-xl">What was made</h2>
      <ul aria-label="What was made">
        {deliveries.map((delivery) => (
          <li key={delivery.id} className="border-b border-rule py-3" data-check={checkId}>
            <One delivery={delivery} onUse={onUse} />
          </li>
        ))}
      </ul>
    </section>
  );
}

function One({ delivery, onUse }: { delivery: Delivery; onUse: (rescueId: string, track: number) => void }) {
  const { id, state, phase, progress, message, folder, files, result, createdAt } = delivery;
  const notify = useNotify();
  const [isRemoving, setRemoving] = useState(false);
  const run = (work: Promise<unknown>) => void work.catch((error: Error) => notify('trouble', error.message));
  const isBusy = state === 'running' || state === 'waiting';
  const bytes = files.reduce((sum, one) => sum + one.bytes, 0);
  return (
    <>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <h3 className="font-semibold">{titleOf(delivery)}</h3>
        <span className="min-w-0 flex-1 text-sm break-words text-soft">
          {formatMoment(createdAt)}
          {folder && !isBusy && ` · ${countText(files.length, 'file')}, ${formatBytes(bytes)}, in ${folder}`}
        </span>
        {isBusy && <Button onClick={() => run(stopDelivery(id))}>Stop</Button>}
        {(state === 'failed' || state === 'stopped') && (
          <Button onClick={() => run(makeAgain(id))}>Make it again</Button>
        )}
        {!isBusy && (
          <Button onClick={() => (files.length > 0 ? setRemoving(true) : run(removeDelivery(id)))}>
            Remove
          </Button>
        )}
      </div>
      {isBusy && (
        <div className="space-y-1 pt-1 text-sm">
          <p className="flex justify-between" role="status">
            <span>{state === 'waiting' ? 'Waiting for the files before it.' : phase || 'Beginning …'}</span>
            <span>{Math.round(progress * 100)} %</span>
          </p>
          <ProgressBar share={progress} label={titleOf(delivery)} />
        </div>
      )}
      {message && !isBusy && (
        <p
          role={state === 'failed' ? 'alert' : 'status'}
          className={state === 'done' ? 'pt-1 text-reed' : 'pt-1 text-clay'}
        >
          {message}
        </p>
      )}
      {result?.kind === 'files' && <MadeFiles delivery={delivery} result={result} />}
      {result?.kind === 'rescue' && (
        <MadeRescue delivery={delivery} result={result} onUse={() => onUse(id, result.track)} />
      )}
      {result?.kind === 'join' && <MadeJoin delivery={delivery} result={result} />}
      {(result?.kind === 'rewrap' || result?.kind === 'repair') && (
        <MadeCopy
          delivery={delivery}
          lines={result.kind === 'repair' ? result.lines : result.left.map(leftOutLine)}
        />
      )}
      {isRemoving && (
        <Sheet title="Remove what was made?" onClose={() => setRemoving(false)}>
          <p className="mb-4 break-words">
            These {files.length} files are deleted from {folder}. The recording stays, and so does whatever
            you put beside them.
          </p>
          <div className="flex gap-2">
            <Button
              weight="danger"
              onClick={() => {
                setRemoving(false);
                run(removeDelivery(id));
              }}
            >
              Delete the files
            </Button>
            <Button onClick={() => setRemoving(false)}>Keep them</Button>
          </div>
        </Sheet>
      )}
    </>
  );
}

function titleOf({ order, result }: Delivery): string {
  switch (order.kind) {
    case 'rescue':
      return result?.kind === 'rescue'
        ? `Track ${result.track + 1} without ${result.sound}`
        : `Taking a sound out of track ${order.track + 1}`;
    case 'marks':
      return 'Looking for moments';
    case 'join':
      return result ? 'Joined with other recordings' : 'Joining with other recordings';
    case 'rewrap':
      return `Copy as ${order.container.toUpperCase()}`;
    case 'repair':
      return result ? 'Repaired' : 'Repair';
    default: {
      const videos = order.upload?.pieces.length ?? 0;
      const video = videos === 0 ? [] : [videos === 1 ? 'Video' : `${videos} videos`];
      const words = [...video, ...(order.handoff ? ['tracks and timeline'] : [])].join(', ');
      return words.charAt(0).toUpperCase() + words.slice(1);
    }
  }
}
