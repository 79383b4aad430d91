import { useMutation } from '@tanstack/react-query';
import { FileAudio } from 'lucide-react';
import { useRef, useState } from 'react';
import { Link } from 'react-router';
import { readSounding } from '../../api/sounding.ts';
import { Button, ScreenTitle } from '../../parts/controls.tsx';
import { useSetup } from '../../setupContext.tsx';
import { MeasuredTable } from './MeasuredTable.tsx';
import { RoomCauses } from './RoomCauses.tsx';
import { TestSounds } from './TestSounds.tsx';

/** Sounding the real room: test sounds to play, a recording of them to hand in, and what it says beside the setup. */
export function SoundingScreen() {
  const { id, path, setup } = useSetup();
  const [file, setFile] = useState<File | null>(null);
  const picker = useRef<HTMLInputElement>(null);
  const stop = useRef<AbortController | null>(null);
  const reading = useMutation({
    mutationFn: (recording: File) => {
      stop.current = new AbortController();
      return readSounding(id, recording, stop.current.signal);
    },
  });
  const take = (recording: File | undefined) => {
    if (!recording) return;
    setFile(recording);
    reading.mutate(recording);
  };
  const isStopped = stop.current?.signal.aborted === true;
  return (
    <div className="h-full overflow-auto px-6 py-4">
      <ScreenTitle title="Sound the real room">
        <Link to={`${path}/takes`} className="text-sm text-water underline">
          Back to the takes
        </Link>
      </ScreenTitle>
      <p className="max-w-3xl text-soft">
        Each source gets a test sound of its own. Play them in your real room, record as you always do, and
        hand in the file: Northfen reads what arrived on which track, how loud and how late, and says where
        your room differs from this setup.
      </p>
      <TestSounds />
      <section aria-label="Recording" className="mt-6">
        <h2 className="border-b-2 border-ink pb-1 font-title text-xl">2. Hand in the recording</h2>
        <fieldset
          aria-label="The recording, to choose or to drop here"
          className="mt-3 flex flex-wrap items-center gap-3 border border-dashed border-rule bg-sheet px-4 py-3"
          onDragOver={(event) => event.preventDefault()}
          onDrop={(event) => {
            event.preventDefault();
            take(event.dataTransfer.files[0]);
          }}
        >
          <Button weight="main" onClick={() => picker.current?.click()} disabled={reading.isPending}>
            <FileAudio size={15} /> Choose the recording
          </Button>
          <input
            ref={picker}
            type="file"
            className="sr-only"
            aria-label="Recording of the test sounds"
            accept="audio/*,video/*,.mkv,.wav,.flac"
            onChange={(event) => {
              take(event.target.files?.[0]);
              event.target.value = '';
            }}
          />
          {reading.isPending ? (
            <>
              <span role="status">
                Reading {file?.name}: this takes about as long as half the recording …
              </span>
              <Button onClick={() => stop.current?.abort()}>Stop</Button>
            </>
          ) : (
            <span className="text-soft">
              or drop it here: MKV, MP4, MOV, WAV or FLAC with all its tracks, or a VOD that came back. Its
              first two minutes are read.
            </span>
          )}
        </fieldset>
        {reading.error && !isStopped && (
          <p role="alert" className="mt-2 text-reed">
            {reading.error.message}
          </p>
        )}
        {reading.error && isStopped && <p className="mt-2 text-soft">Stopped. Nothing was changed.</p>}
      </section>
      {reading.data && (
        <>
          <RoomCauses sounding={reading.data} fileName={file?.name ?? ''} />
          <MeasuredTable sounding={reading.data} setup={setup} />
        </>
      )}
    </div>
  );
}
