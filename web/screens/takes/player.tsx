import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useRef } from 'react';
import { useRehearsal } from '../../rehearsal.tsx';

interface Player {
  /** Registers the sound of a track; only one of them plays at a time. */
  register(trackId: string, audio: HTMLAudioElement): () => void;
  /** Plays a track from a time (s). */
  playAt(trackId: string, timeS: number): void;
}

const PlayerContext = createContext<Player | null>(null);

/** Returns the player of the take that is shown. */
export function usePlayer(): Player {
  const player = useContext(PlayerContext);
  if (!player) throw new Error('no take is shown');
  return player;
}

/** Gives the tracks of a take one player between them: starting one stops the others, and the rehearsal; as that stops them. */
export function PlayerProvider({ children }: { children: ReactNode }) {
  const sounds = useRef(new Map<string, HTMLAudioElement>());
  const { transport, state } = useRehearsal();
  const rehearsal = useRef(transport);
  rehearsal.current = transport;
  const isRehearsing = state.status === 'playing';
  useEffect(() => {
    if (isRehearsing) for (const sound of sounds.current.values()) sound.pause();
  }, [isRehearsing]);

  const register = useCallback((trackId: string, audio: HTMLAudioElement) => {
    sounds.current.set(trackId, audio);
    const stopOthers = () => {
      rehearsal.current?.pause();
      for (const other of sounds.current.values()) if (other !== audio) other.pause();
    };
    audio.addEventListener('play', stopOthers);
    return () => {
      audio.removeEventListener('play', stopOthers);
      audio.pause();
      sounds.current.delete(trackId);
    };
  }, []);

  const playAt = useCallback((trackId: string, timeS: number) => {
    const audio = sounds.current.get(trackId);
    if (!audio) return;
    audio.currentTime = timeS;
    void audio.play().catch(() => {});
  }, []);

  const player = useMemo(() => ({ register, playAt }), [register, playAt]);
  return <PlayerContext value={player}>{children}</PlayerContext>;
}
