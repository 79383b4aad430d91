import { useEffect, useRef, useState } from 'react';
import { Button } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';

/** Plays one of several files of one length; changing goes on at the same place. */
export function HearFiles({
  sounds,
  fromS,
}: {
  sounds: { name: string; url: string }[];
  /** Where it begins (s). */
  fromS: number;
}) {
  const audio = useRef<HTMLAudioElement>(new Audio());
  const notify = useNotify();
  const [playing, setPlaying] = useState<string | null>(null);
  useEffect(() => {
    const sound = audio.current;
    const end = () => setPlaying(null);
    sound.addEventListener('ended', end);
    return () => {
      sound.pause();
      sound.removeEventListener('ended', end);
    };
  }, []);
  const stop = () => {
    audio.current.pause();
    setPlaying(null);
  };
  const hear = (url: string) => {
    const sound = audio.current;
    const atS = playing === null ? fromS : sound.currentTime;
    sound.src = url;
    sound.currentTime = atS;
    setPlaying(url);
    sound.play().catch((error: Error) => {
      if (error.name === 'AbortError') return;
      stop();
      notify('trouble', 'This file cannot be played. Is it still there?');
    });
  };
  return (
    <p className="flex flex-wrap items-center gap-2">
      <span className="text-soft">Compare by ear:</span>
      {sounds.map(({ name, url }) => (
        <Button
          key={url}
          aria-pressed={playing === url}
          className={playing === url ? 'border-water font-semibold text-water' : ''}
          onClick={() => (playing === url ? stop() : hear(url))}
        >
          {name}
        </Button>
      ))}
      {playing !== null && <Button onClick={stop}>Stop</Button>}
    </p>
  );
}
