import { useState } from 'react';
import { Link } from 'react-router';
import type { Check } from '../../../core/check/records.ts';
import {
  type DeliveryOrder,
  MOST_PIECES,
  type Piece,
  type UploadOrder,
} from '../../../core/deliver/records.ts';
import { firstUpload } from '../../../core/deliver/usual.ts';
import { order, useDeliveries } from '../../api/deliveries.ts';
import { useMarks } from '../../api/marks.ts';
import { Button } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { RecordingPage } from '../check/RecordingPage.tsx';
import { CopyForm } from './CopyForm.tsx';
import { EditorForm } from './EditorForm.tsx';
import { JoinForm } from './JoinForm.tsx';
import { MadeList } from './MadeList.tsx';
import { Marks } from './Marks.tsx';
import { type Clips, piecesOf } from './pieces.ts';
import { RescueForm } from './RescueForm.tsx';
import { VideoForm } from './VideoForm.tsx';

/** What is made of a recording: videos to upload, what the editor gets, and tracks that are rescued. */
export function MakeScreen() {
  return (
    <RecordingPage titleOf={(name) => `Make files: ${name ?? 'recording'}`}>
      {(check) =>
        check.inspected && check.plan ? (
          <Forms key={`${check.id} ${check.checkedAt}`} check={check} />
        ) : (
          <Unread check={check} />
        )
      }
    </RecordingPage>
  );
}

/** A recording that cannot be read, or not yet: it may be damaged. */
function Unread({ check }: { check: Check }) {
  const made = useDeliveries(check.id);
  const make = useMake(check.id);
  return (
    <>
      <p className="text-soft">
        {check.state === 'failed' ? check.message : 'Northfen has not read its tracks yet. That comes first.'}
      </p>
      <MadeList checkId={check.id} deliveries={made.data ?? []} onUse={() => {}} />
      <CopyForm check={check} onMake={make} />
    </>
  );
}

/** Returns a function that has something made of a recording. */
function useMake(checkId: string): (what: DeliveryOrder) => void {
  const notify = useNotify();
  return (what) =>
    void order(checkId, what).then(
      () => document.getElementById('made')?.scrollIntoView({ block: 'start' }),
      (error: Error) => notify('trouble', error.message),
    );
}

function Forms({ check }: { check: Check }) {
  const made = useDeliveries(check.id);
  const marks = useMarks({ kind: 'checks', id: check.id });
  const [isVideo, setVideo] = useState(true);
  const [isEditor, setEditor] = useState(true);
  const [upload, setUpload] = useState<Omit<UploadOrder, 'pieces'>>(() => firstUpload(check));
  const [clips, setClips] = useState<Clips>({
    whole: true,
    fromS: 0,
    untilS: null,
    marks: [],
    beforeS: 10,
    afterS: 20,
  });
  const [format, setFormat] = useState<'wav' | 'flac'>('wav');
  const pieces = piecesOf(check, clips, marks.data ?? []);
  const make = useMake(check.id);
  const isReady = (isVideo || isEditor) && (!isVideo || (upload.tracks.length > 0 && canBeMade(pieces)));
  return (
    <>
      {check.result === null && (
        <p role="status" className="border-l-4 border-reed bg-sheet px-4 py-2">
          This recording has not been checked yet. The finished files are checked anyway, for what the tracks
          seem to carry. To look for more, go to{' '}
          <Link to={`/recordings/${check.id}`} className="text-water underline">
            What is in it
          </Link>
          .
        </p>
      )}
      <VideoForm
        check={check}
        isOn={isVideo}
        onIsOn={setVideo}
        upload={upload}
        onUpload={setUpload}
        clips={clips}
        onClips={setClips}
        marks={marks.data ?? []}
        rescues={(made.data ?? []).filter(
          ({ state, order: { kind } }) => state === 'done' && kind === 'rescue',
        )}
      />
      <EditorForm check={check} isOn={isEditor} onIsOn={setEditor} format={format} onFormat={setFormat} />
      <p className="flex flex-wrap items-center gap-3 border-t border-rule pt-3">
        <Button
          weight="main"
          disabled={!isReady}
          onClick={() =>
            make({
              kind: 'files',
              upload: isVideo ? { ...upload, pieces } : null,
              handoff: isEditor ? format : null,
            })
          }
        >
          {makeWords(isVideo ? pieces.length : 0, isEditor)}
        </Button>
        <span className="text-sm text-soft">
          The files go into a folder of their own. Your recording is not changed, and the picture is copied
          without coding it again.
        </span>
      </p>
      <MadeList
        checkId={check.id}
        deliveries={(made.data ?? []).filter(({ order: { kind } }) => kind !== 'marks')}
        onUse={(rescueId, track) => {
          setVideo(true);
          setUpload({
            ...upload,
            tracks: [
              ...upload.tracks.filter((one) => one.track !== track),
              { track, rescueId, gainDb: upload.tracks.find((one) => one.track === track)?.gainDb ?? 0 },
            ],
          });
        }}
      />
      <RescueForm check={check} onMake={make} />
      <JoinForm check={check} onMake={make} />
      <CopyForm check={check} onMake={make} />
      <Marks
        check={check}
        marks={marks.data ?? []}
        search={(made.data ?? []).find(({ order: { kind } }) => kind === 'marks')}
        onSearch={() => make({ kind: 'marks' })}
      />
    </>
  );
}

/** Tells whether there are pieces to make, not too many of them, and each ends after it begins. */
function canBeMade(pieces: Piece[]): boolean {
  const isCount = pieces.length > 0 && pieces.length <= MOST_PIECES;
  return isCount && pieces.every(({ fromS, untilS }) => untilS === null || untilS > fromS);
}

function makeWords(videos: number, isEditor: boolean): string {
  const video = videos === 1 ? 'the video' : `${videos} videos`;
  if (videos === 0) return isEditor ? 'Make the tracks and the timeline' : 'Make files';
  return isEditor ? `Make ${video}, tracks and timeline` : `Make ${video}`;
}
