import { clsx } from 'clsx';
import { Pause, Play } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { useMatch } from 'react-router';
import { destinationsOf } from '../core/reach/destinations.ts';
import { isTaken } from './parts/isTyping.ts';
import { useNotify } from './parts/notices.tsx';
import { PlayedAt } from './parts/PlayedAt.tsx';
import { FIRST_HEARD, useRehearsal } from './rehearsal.tsx';
import { useSetup } from './setupContext.tsx';

/**
 * Listening on every screen: play and pause, and which destination is heard. What is changed is heard while it plays. Rehearse has
 * all of it, and more, so it is not shown there.
 */
export function ListenBar() {
  const { setup } = useSetup();
  const { transport, state, isOpening, destinations: heard, mutes, solo, play, listen } = useRehearsal();
  const notify = useNotify();
  const [chosen, setChosen] = useState(FIRST_HEARD);
  const isRehearse = useMatch('/setups/:setupId/rehearse') !== null;
  const isShown = !isRehearse && setup.sources.some(({ media }) => media);
  const destinations = destinationsOf(setup).filter(({ sendTo }) => sendTo !== null);
  const isPlaying = state.status === 'playing';
  const wanted = (transport && heard[state.destination]?.id) ?? chosen;
  const destination = destinations.some(({ id }) => id === wanted) ? wanted : destinations[0]?.id;
  const toggle = () => (isPlaying ? transport?.pause() : play(transport ? {} : { destination }));
  useEffect(() => {
    if (isShown && state.message) notify('trouble', state.message);
  }, [isShown, state.message, notify]);
  const latest = useRef(toggle);
  latest.current = toggle;
  useEffect(() => {
    if (!isShown) return;
    const onKey = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key.toLowerCase() === 'p' && !isTaken(event)) latest.current();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [isShown]);
  return (
    <div className={clsx('flex items-center gap-2', !isShown && 'invisible')}>
      <button
        type="button"
        aria-label={isPlaying ? 'Stop listening' : 'Listen'}
        title={isPlaying ? 'Stop listening (P)' : 'Listen while you work (P)'}
        onClick={toggle}
        className={clsx(
          'grid size-8 place-items-center rounded-full border hover:border-ink',
          isPlaying ? 'border-water bg-water text-paper' : 'border-soft bg-sheet text-water',
        )}
      >
        {isPlaying ? <Pause size={15} /> : <Play size={15} className="translate-x-px" />}
      </button>
      <div className="leading-tight">
        <span className={clsx('block text-[11px]', state.status === 'failed' ? 'text-clay' : 'text-soft')}>
          {state.status === 'failed' ? (
            'no sound'
          ) : isOpening || state.status === 'loading' ? (
            'opening …'
          ) : isPlaying && transport ? (
            <>
              heard at <PlayedAt transport={transport} testId="heard-at" />
              {mutes.length + solo.length > 0 && ', some muted'}
            </>
          ) : (
            'hear it as'
          )}
        </span>
        <select
          aria-label="Hear it as"
          value={destination}
          onChange={(event) => {
            setChosen(event.target.value);
            listen(event.target.value);
          }}
          className="-ml-1 w-28 truncate rounded-sm bg-transparent text-sm hover:bg-sunk"
        >
          {destinations.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
      </div>
    </div>
  );
}
