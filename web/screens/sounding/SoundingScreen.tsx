import { useMutation, useQueryClient } from '@tanstack/react-query';
import { FileAudio } from 'lucide-react';
import { useDeferredValue, useMemo, useRef, useState } from 'react';
import { Link } from 'react-router';
import { besideSetup, type RoomReading } from '../../../core/sounding/sounding.ts';
import { readSounding, simulateSounding } from '../../api/sounding.ts';
import { today } from '../../format.ts';
import { Button, ScreenTitle } from '../../parts/controls.tsx';
import { FileButton } from '../../parts/FileButton.tsx';
import { useSetup } from '../../setupContext.tsx';
import { MeasuredTable } from './MeasuredTable.tsx';
import { RoomCauses } from './RoomCauses.tsx';
import { TestSounds } from './TestSounds.tsx';

/** What was read last, and of which file. */
interface LastReading {
  reading: RoomReading;
  name: string;
}

/** Sounding the real room: test sounds to play, a recording of them to hand in, and what it says beside the setup. */
export function SoundingScreen() {
  const { id, path, setup } = useSetup();
  const queries = useQueryClient();
  const key = ['sounding', id];
  // What was read stays while other screens are looked at.
  const [read, setRead] = useState(queries.getQueryData<LastReading>(key));
  const stop = useRef<AbortController | null>(null);
  const reading = useMutation({
    mutationFn: (recording: File | null) => {
      stop.current = new AbortController();
      const { signal } = stop.current;
      return recording ? readSounding(id, recording, signal) : simulateSounding(id, signal);
    },
    onSuccess: (reading, recording) => {
      const name = recording?.name ?? 'the simulated room';
      setRead({ reading, name });
      queries.setQueryDefaults(key, { gcTime: Number.POSITIVE_INFINITY });
      queries.setQueryData<LastReading>(key, { reading, name });
    },
  });
  const settled = useDeferredValue(setup);
  const sounding = useMemo(() => read && besideSetup(settled, read.reading, today()), [read, settled]);
  const take = (recording: File | undefined) => {
    if (!recording) return;
    reading.mutate(recording);
  };
  const isStopped = stop.current?.signal.aborted === true;
  return (
    <div className="h-full overflow-auto px-6 py-4">
      <Link to={`${path}/takes`} className="text-sm text-water underline">
        All takes
      </Link>
      <ScreenTitle title="Sound the real room" />
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
          <FileButton
            weight="main"
            label="Recording of the test sounds"
            disabled={reading.isPending}
            onFiles={([recording]) => take(recording)}
          >
            <FileAudio size={15} /> Choose the recording
          </FileButton>
          {reading.isPending ? (
            <>
              <span role="status">
                Reading {reading.variables?.name ?? 'a simulated room'}: this takes about half a minute …
              </span>
              <Button onClick={() => stop.current?.abort()}>Stop</Button>
            </>
          ) : (
            <span className="min-w-0 flex-1 basis-72 text-soft">
              or drop it here: MKV, MP4, MOV, WAV or FLAC with all its tracks, or a VOD that came back. Its
              first two minutes are read.
            </span>
          )}
          {!reading.isPending && (
            <Button onClick={() => reading.mutate(null)}>Try it in a simulated room</Button>
          )}
        </fieldset>
        {reading.error && !isStopped && (
          <p role="alert" className="mt-2 text-reed">
            {reading.error.message}
          </p>
        )}
        {reading.error && isStopped && <p className="mt-2 text-soft">Stopped. Nothing was changed.</p>}
      </section>
      {read && sounding && (
        <>
          <RoomCauses sounding={sounding} fileName={read.name} />
          <MeasuredTable sounding={sounding} setup={settled} />
        </>
      )}
    </div>
  );
}
