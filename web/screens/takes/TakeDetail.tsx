import { Clapperboard, Download, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { conclusionSentences } from '../../../core/proof/conclusion.ts';
import { deleteTake, renameTake, takeAsRecording, takeFileUrl } from '../../api/takes.ts';
import type { Take } from '../../api/types.ts';
import { formatBytes, formatClock, formatMoment } from '../../format.ts';
import { Button, NameField } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { Sheet } from '../../parts/Sheet.tsx';
import { ProofTable } from './ProofTable.tsx';
import { PlayerProvider } from './player.tsx';
import { TrackRow } from './TrackRow.tsx';
import { CONCLUSION_LOOKS } from './verdicts.ts';

/** A take: what it proves in one sentence, its tracks, and the proof. */
export function TakeDetail({
  take,
  isCurrent,
  onDeleted,
}: {
  take: Take;
  isCurrent: boolean;
  onDeleted: () => void;
}) {
  const notify = useNotify();
  const navigate = useNavigate();
  const [isDeleting, setDeleting] = useState(false);
  const report = (error: Error) => notify('trouble', error.message);
  return (
    <PlayerProvider key={take.id}>
      <div className="space-y-4">
        <div className="flex flex-wrap items-start justify-between gap-x-4 gap-y-2">
          <div>
            <NameField
              value={take.name}
              label="Name of the take"
              className="-ml-1 w-96 max-w-full font-title text-2xl leading-tight"
              onChange={(name) => void renameTake(take.id, name).catch(report)}
            />
            <Sentence take={take} />
            <p className="text-sm text-soft">
              {formatClock(take.durationS)}, {take.setup.tracks.length} tracks, {formatBytes(take.bytes)},{' '}
              {formatMoment(take.createdAt)}
              {isCurrent ? '' : ' · the setup has changed since'}
            </p>
          </div>
          <div className="flex gap-2">
            <Button
              title="A video to upload, tracks and a timeline for the editor"
              onClick={() =>
                void takeAsRecording(take.id).then(({ id }) => navigate(`/recordings/${id}/make`), report)
              }
            >
              <Clapperboard size={15} /> Make files
            </Button>
            <a
              href={takeFileUrl(take.id)}
              download
              className="inline-flex items-center gap-1.5 rounded-sm border border-rule bg-sheet px-2.5 py-1 text-sm hover:border-ink"
              title="One Matroska file with every track by name"
            >
              <Download size={15} /> Download the take
            </a>
            <Button weight="quiet" aria-label={`Delete ${take.name}`} onClick={() => setDeleting(true)}>
              <Trash2 size={15} />
            </Button>
          </div>
        </div>
        <div className="overflow-x-auto">
          <table className="w-full min-w-[48rem] text-sm" aria-label="Tracks">
            <thead>
              <tr className="border-b border-soft text-xs text-soft">
                {['', 'Track', 'Waveform', 'Integrated', 'Range', 'True peak', ''].map((title, index) => (
                  <th
                    key={index}
                    scope="col"
                    className={`pr-3 font-normal ${index > 2 && index < 6 ? 'text-right' : 'text-left'}`}
                  >
                    {title}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {take.setup.tracks.map((track, index) => {
                const measures = take.tracks.find((one) => one.trackId === track.id);
                return (
                  measures && (
                    <TrackRow
                      key={track.id}
                      takeId={take.id}
                      number={index + 1}
                      track={track}
                      measures={measures}
                      durationS={take.durationS}
                    />
                  )
                );
              })}
            </tbody>
          </table>
        </div>
        <ProofTable take={take} />
        {isDeleting && (
          <Sheet title={`Delete “${take.name}”?`} onClose={() => setDeleting(false)}>
            <p className="mb-4">
              The recording ({formatBytes(take.bytes)}) and its proof are deleted from this computer. This
              cannot be undone. Download the take first if you may want it again.
            </p>
            <div className="flex gap-2">
              <Button
                weight="danger"
                onClick={() => {
                  setDeleting(false);
                  void deleteTake(take.id).then(onDeleted, report);
                }}
              >
                Delete the take
              </Button>
              <Button onClick={() => setDeleting(false)}>Keep it</Button>
            </div>
          </Sheet>
        )}
      </div>
    </PlayerProvider>
  );
}

/** What the take shows as a whole: the first word is the verdict. */
function Sentence({ take }: { take: Take }) {
  const { className } = CONCLUSION_LOOKS[take.conclusion.kind];
  const [first, ...others] = conclusionSentences(take.setup, take.conclusion);
  const at = first.indexOf(':') + 1;
  return (
    <div className={`max-w-3xl ${className}`} data-conclusion={take.conclusion.kind}>
      <p>
        <strong>{first.slice(0, at)}</strong>
        {first.slice(at)}
      </p>
      {others.map((sentence) => (
        <p key={sentence}>{sentence}</p>
      ))}
    </div>
  );
}
