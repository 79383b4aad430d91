import {
  createContext,
  type ReactNode,
  useCallback,
  useContext,
  useEffect,
  useMemo,
  useRef,
  useState,
  useSyncExternalStore,
} from 'react';
import { useMatch } from 'react-router';
import { compileDestinations, type HeardDestination, type Rehearsable } from '../core/engine/destinations.ts';
import { type Mute, silencedBy } from '../core/reach/mutes.ts';
import { reachOf } from '../core/reach/reach.ts';
import { attempt } from '../core/repair/attempt.ts';
import type { Edit } from '../core/setup/edits.ts';
import type { Setup } from '../core/setup/schema.ts';
import { Transport, type TransportState } from './audio/transport.ts';
import { useNotify } from './parts/notices.tsx';
import { type Courses, useCourses } from './parts/useCourses.ts';
import { useSetup } from './setupContext.tsx';

/** What is asked for when playing begins: from where (as it is when left out), and as which destination. */
export interface PlayFrom {
  timeS?: number;
  destination?: string;
}

/** The rehearsal of the setup that is open. It goes on while one goes from screen to screen. */
export interface Rehearsal {
  /** What each source does over time; read once the rehearsal was opened. */
  courses: Courses;
  /** Null until it was opened and the recordings are read. */
  transport: Transport | null;
  state: TransportState;
  /** Whether it is to begin once the recordings are read. */
  isOpening: boolean;
  destinations: HeardDestination[];
  mutes: Mute[];
  setMutes: (change: (before: Mute[]) => Mute[]) => void;
  /** The sources that are heard alone; all are heard when there are none. */
  solo: string[];
  setSolo: (change: (before: string[]) => string[]) => void;
  /** Lets an edit be heard that is not made; null ends that. */
  setHeardEdit: (edit: Edit | null) => void;
  /** Reads the recordings, so that it can begin. */
  open: () => void;
  /** Begins as soon as the recordings are read. Call it from a click or a key. */
  play: (from?: PlayFrom) => void;
  /** Listens as a destination, where it is heard at all. */
  listen: (destinationId: string) => void;
}

const RehearsalContext = createContext<Rehearsal | null>(null);

/** Returns the rehearsal of the setup that is open. */
export function useRehearsal(): Rehearsal {
  const rehearsal = useContext(RehearsalContext);
  if (!rehearsal) throw new Error('no setup is open');
  return rehearsal;
}

const IDLE: TransportState = { status: 'idle', message: null, destination: 0, loop: null };

/** What a transport does, kept up to date. */
export function useTransportState(transport: Transport | null): TransportState {
  return useSyncExternalStore(transport?.subscribe ?? (() => () => {}), () => transport?.state ?? IDLE);
}

/** Keeps the rehearsal of a setup beyond its screens. */
export function RehearsalProvider({ children }: { children: ReactNode }) {
  const { setup } = useSetup();
  const [isOpen, setIsOpen] = useState(false);
  const [mutes, setMutes] = useState<Mute[]>([]);
  const [solo, setSolo] = useState<string[]>([]);
  const [heardEdit, setHeardEdit] = useState<Edit | null>(null);
  const [wanted, setWanted] = useState<PlayFrom | null>(null);
  const courses = useCourses(setup, isOpen);
  const heard = useMemo(() => (heardEdit && attempt(setup, heardEdit)) ?? setup, [setup, heardEdit]);
  const isRehearse = useMatch('/setups/:setupId/rehearse') !== null;
  const [transport, setTransport] = useState<Transport | null>(null);
  const state = useTransportState(transport);
  const isOpening = wanted !== null;
  const isUsed = isRehearse || isOpening || state.status === 'playing' || state.status === 'loading';
  const silent = useMemo(() => withSolo(setup, mutes, solo), [setup, mutes, solo]);
  const rehearsable = useRehearsable(heard, silent, isOpen && isUsed);
  useTransport(heard, rehearsable, courses.endS, transport, setTransport);
  const destinations = rehearsable?.destinations ?? NOBODY;

  const listen = useCallback(
    (id: string) => {
      const destination = destinations.findIndex((one) => one.id === id);
      if (destination >= 0) transport?.listen(destination);
    },
    [transport, destinations],
  );
  useEffect(() => {
    if (!wanted || !transport || transport.isClosed) return;
    setWanted(null);
    if (wanted.destination) listen(wanted.destination);
    if (wanted.timeS !== undefined) transport.seek(wanted.timeS);
    void transport.play();
  }, [wanted, transport, listen]);

  const notify = useNotify();
  const { error } = courses;
  useEffect(() => {
    if (!isOpening || !error) return;
    setWanted(null);
    notify('trouble', `Nothing can be played: ${error.message}`);
  }, [isOpening, error, notify]);

  const open = useCallback(() => setIsOpen(true), []);
  const play = useCallback((from: PlayFrom = {}) => {
    setIsOpen(true);
    setWanted(from);
  }, []);
  const value = useMemo(
    () => ({
      ...{ courses, transport, state, isOpening, destinations, mutes, setMutes, solo, setSolo },
      ...{ setHeardEdit, open, play, listen },
    }),
    [courses, transport, state, isOpening, destinations, mutes, solo, open, play, listen],
  );
  return <RehearsalContext value={value}>{children}</RehearsalContext>;
}

/** What is silent for now: what is muted, and, while some sources are heard alone, all others. */
function withSolo(setup: Setup, mutes: Mute[], solo: string[]): Mute[] {
  if (!setup.sources.some(({ id }) => solo.includes(id))) return mutes;
  const others = setup.sources.filter(({ id }) => !solo.includes(id));
  return [...mutes, ...others.map(({ id }) => ({ source: id, destination: null }))];
}

const NOBODY: HeardDestination[] = [];

/** The setup made flat, with what is muted for now; as it was last while it is not used, for that takes a while. */
function useRehearsable(setup: Setup, mutes: Mute[], isUsed: boolean): Rehearsable | null {
  const last = useRef<Rehearsable | null>(null);
  const made = useMemo(
    () =>
      isUsed ? compileDestinations(setup, { silenced: silencedBy(setup, reachOf(setup), mutes) }) : null,
    [setup, mutes, isUsed],
  );
  if (made) last.current = made;
  return last.current;
}

/** The destination that is heard at first, where there is one of that id. */
export const FIRST_HEARD = 'live';

/** Keeps a transport for the setup, which follows its changes. Where there are other sources or destinations, another goes on in its place. */
function useTransport(
  setup: Setup,
  rehearsable: Rehearsable | null,
  endS: number,
  transport: Transport | null,
  setTransport: (transport: Transport | null) => void,
): void {
  const current = useRef<{ transport: Transport; destinations: HeardDestination[]; shape: string } | null>(
    null,
  );
  const shape =
    rehearsable &&
    JSON.stringify([
      setup.sources.map(({ id, media }) => [id, media?.path]),
      rehearsable.destinations.map(({ id }) => id),
      endS,
    ]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: a new one is needed only for other sources, destinations or lengths
  useEffect(() => {
    if (!rehearsable || !shape || endS === 0) return;
    const made = new Transport(
      rehearsable,
      setup.sources.map(({ media }) => media?.path ?? null),
      endS,
    );
    const before = current.current;
    current.current = { transport: made, destinations: rehearsable.destinations, shape };
    if (before) made.follow(before.transport, heardAfter(before, rehearsable.destinations));
    else made.listen(indexOfDestination(rehearsable.destinations, FIRST_HEARD));
    setTransport(made);
  }, [shape]);

  useEffect(
    () => () => {
      current.current?.transport.close();
      current.current = null;
      setTransport(null);
    },
    [setTransport],
  );

  useEffect(() => {
    if (rehearsable && current.current?.shape === shape) transport?.rearrange(rehearsable);
  }, [transport, rehearsable, shape]);
}

/** Where the destination that was heard stands now; the first where it is gone. */
function heardAfter(
  { transport, destinations }: { transport: Transport; destinations: HeardDestination[] },
  next: HeardDestination[],
): number {
  return indexOfDestination(next, destinations[transport.state.destination].id);
}

function indexOfDestination(destinations: HeardDestination[], id: string): number {
  return Math.max(
    0,
    destinations.findIndex((destination) => destination.id === id),
  );
}
