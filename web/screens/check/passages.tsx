import {
  createContext,
  type ReactNode,
  useCallback,
  useContext,
  useEffect,
  useMemo,
  useRef,
  useState,
} from 'react';
import { passageUrl } from '../../api/checks.ts';
import { useNotify } from '../../parts/notices.tsx';

/** What is heard: a track of the recording (counted from one), or a sound that is looked for, from a moment on (s). */
export interface Heard {
  track?: number;
  reference?: string;
  atS: number;
  /** It plays on until here (s); as far as one passage goes when it is left out. */
  endS?: number;
}

interface Passages {
  /** What plays now, or null. */
  playing: Heard | null;
  play(heard: Heard): void;
  /** Goes on with another sound, at the same place of its passage. */
  change(heard: Heard): void;
  stop(): void;
  /** Where in the recording it plays just now (s); null while nothing plays. */
  positionS(): number | null;
}

/** A passage is so long (s); what is longer is heard passage by passage. */
const PASSAGE_S = 20;

const PassageContext = createContext<Passages | null>(null);

/** Returns the player of the recording that is shown. */
export function usePassages(): Passages {
  const passages = useContext(PassageContext);
  if (!passages) throw new Error('no recording is shown');
  return passages;
}

/** Gives a recording one player: passages of its tracks and of what is looked for, all equally loud. Escape stops it. */
export function PassageProvider({ checkId, children }: { checkId: string; children: ReactNode }) {
  const audio = useRef<HTMLAudioElement>(new Audio());
  const notify = useNotify();
  const [playing, setPlaying] = useState<Heard | null>(null);
  const now = useRef<Heard | null>(null);

  const stop = useCallback(() => {
    audio.current.pause();
    now.current = null;
    setPlaying(null);
  }, []);
  const start = useCallback(
    (heard: Heard, fromS: number) => {
      const sound = audio.current;
      now.current = heard;
      setPlaying(heard);
      sound.src = passageUrl(checkId, { ...heard, fromS: heard.atS, seconds: PASSAGE_S });
      sound.currentTime = fromS;
      sound.play().catch((error: Error) => {
        if (error.name === 'AbortError' || now.current !== heard) return;
        stop();
        notify('trouble', 'This passage cannot be played. Is the file still there?');
      });
    },
    [checkId, notify, stop],
  );
  const play = useCallback((heard: Heard) => start(heard, 0), [start]);
  const change = useCallback((heard: Heard) => start(heard, audio.current.currentTime), [start]);
  useEffect(() => {
    const sound = audio.current;
    const onEnd = () => {
      const heard = now.current;
      const nextS = (heard?.atS ?? 0) + PASSAGE_S;
      if (heard?.endS !== undefined && nextS < heard.endS) start({ ...heard, atS: nextS }, 0);
      else stop();
    };
    const onKey = (event: KeyboardEvent) => {
      if (event.key === 'Escape') stop();
    };
    sound.addEventListener('ended', onEnd);
    window.addEventListener('keydown', onKey);
    return () => {
      sound.pause();
      sound.removeEventListener('ended', onEnd);
      window.removeEventListener('keydown', onKey);
    };
  }, [start, stop]);
  const positionS = useCallback(() => (now.current ? now.current.atS + audio.current.currentTime : null), []);
  const value = useMemo(
    () => ({ playing, play, change, stop, positionS }),
    [playing, play, change, stop, positionS],
  );
  return <PassageContext value={value}>{children}</PassageContext>;
}
