import { FileVideo } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { uploadRecording } from '../../api/checks.ts';
import { formatBytes } from '../../format.ts';
import { Button, ProgressBar } from '../../parts/controls.tsx';
import { FileButton } from '../../parts/FileButton.tsx';

/** One file on its way. */
interface Sending {
  key: number;
  file: File;
  share: number;
  message: string | null;
  stop: AbortController;
}
let nextKey = 1;

/** Brings in recordings: chosen or dropped files, several at once, each with its progress. */
export function BringIn({ setupId }: { setupId: string | null }) {
  const [sending, setSending] = useState<Sending[]>([]);
  const queue = useRef<Promise<void>>(Promise.resolve());
  const set = (key: number, values: Partial<Sending>) =>
    setSending((all) => all.map((one) => (one.key === key ? { ...one, ...values } : one)));
  const remove = (key: number) => setSending((all) => all.filter((one) => one.key !== key));

  const take = (files: File[]) => {
    const added = files.map((file) => ({
      key: nextKey++,
      file,
      share: 0,
      message: null,
      stop: new AbortController(),
    }));
    setSending((all) => [...all, ...added]);
    for (const { key, file, stop } of added)
      queue.current = queue.current.then(() =>
        uploadRecording(file, setupId, { onProgress: (share) => set(key, { share }), signal: stop.signal })
          .then(() => remove(key))
          .catch((error: Error) => set(key, { message: error.message })),
      );
  };
  useEffect(() => {
    const leave = (event: BeforeUnloadEvent) => event.preventDefault();
    const isSending = sending.some(({ message }) => message === null);
    if (isSending) window.addEventListener('beforeunload', leave);
    return () => window.removeEventListener('beforeunload', leave);
  }, [sending]);

  return (
    <fieldset
      aria-label="Recordings, to choose or to drop here"
      className="border border-dashed border-rule bg-sheet px-4 py-3"
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        take([...event.dataTransfer.files]);
      }}
    >
      <div className="flex flex-wrap items-center gap-3">
        <FileButton weight="main" label="Recordings to check" isMany onFiles={take}>
          <FileVideo size={15} /> Choose recordings
        </FileButton>
        <span className="min-w-0 flex-1 basis-72 text-soft">
          or drop them here: MKV, MP4, MOV, WAV, FLAC and more, with all their tracks. They can be hours long.
        </span>
      </div>
      {sending.length > 0 && (
        <ul className="mt-2" aria-label="On their way">
          {sending.map(({ key, file, share, message, stop }) => (
            <li key={key} className="flex items-center gap-3 border-t border-rule py-1.5 text-sm">
              <span className="min-w-0 flex-1">
                <span className="block truncate">
                  {file.name} <span className="text-xs text-soft">{formatBytes(file.size)}</span>
                </span>
                {message ? (
                  <span role="alert" className="text-clay">
                    {message}
                  </span>
                ) : (
                  <ProgressBar share={share} label={`Uploading ${file.name}`} />
                )}
              </span>
              <Button
                aria-label={`${message ? 'Dismiss' : 'Stop'} ${file.name}`}
                onClick={() => (message ? remove(key) : stop.abort())}
              >
                {message ? 'Dismiss' : 'Stop'}
              </Button>
            </li>
          ))}
        </ul>
      )}
    </fieldset>
  );
}
