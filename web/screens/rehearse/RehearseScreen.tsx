import { Bookmark, Pause, Play, Repeat, SkipForward, X } from 'lucide-react';
import { useCallback, useEffect, useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import { LEAD_S, leadingTo } from '../../../core/proof/moments.ts';
import { faderEdit } from '../../../core/reach/linkedCells.ts';
import { type Reach, reachOf } from '../../../core/reach/reach.ts';
import { MAX_GAIN_DB, MIN_GAIN_DB, nearestGain, type Setup } from '../../../core/setup/schema.ts';
import { addMarks, useMarks } from '../../api/marks.ts';
import type { Transport } from '../../audio/transport.ts';
import { formatClock } from '../../format.ts';
import { KEYS_OF } from '../../keys.ts';
import { Button, ScreenTitle } from '../../parts/controls.tsx';
import { KeyLegend } from '../../parts/KeyLegend.tsx';
import { MarkList } from '../../parts/MarkList.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { PlayedAt } from '../../parts/PlayedAt.tsx';
import { SidePanel } from '../../parts/SidePanel.tsx';
import { NoRecordings, ReadingRecordings, Unreadable } from '../../parts/soundStates.tsx';
import { useEveryFrame } from '../../parts/useEveryFrame.ts';
import { useRehearsal } from '../../rehearsal.tsx';
import { useSetup } from '../../setupContext.tsx';
import { knownReach } from '../../setupFindings.ts';
import { ProcessingSheet } from '../processing/ProcessingSheet.tsx';
import { type NamedDestination, placesOfDestination, placesOfSource } from '../processing/places.ts';
import { DestinationList } from './DestinationList.tsx';
import { Score } from './Score.tsx';
import { useRehearsalKeys } from './useRehearsalKeys.ts';

/** Rehearse: everything sounds, heard as any destination hears it. */
export function RehearseScreen() {
  const { id: setupId, setup, actions, path } = useSetup();
  const notify = useNotify();
  const [search] = useSearchParams();
  const rehearsal = useRehearsal();
  const { transport, destinations, mutes, setMutes, solo, setSolo, setHeardEdit, open } = rehearsal;
  const { isPending, error, again, courses, moments, endS } = rehearsal.courses;
  const { status, message, destination: heard, loop } = rehearsal.state;
  /** The source that is being processed; or everything that arrives at the destination. */
  const [processed, setProcessed] = useState<{ source: string } | 'everything' | null>(() => {
    const source = search.get('process');
    return source !== null && setup.sources.some(({ id }) => id === source) ? { source } : null;
  });
  const [row, setRow] = useState(0);
  const [lastHeard, setLastHeard] = useState<number | null>(null);
  const reach = knownReach(setup);
  const destination = destinations[heard]?.id ?? '';
  const here = { id: destination, name: destinations[heard]?.name ?? '' };
  const source = setup.sources[Math.min(row, setup.sources.length - 1)];

  useEffect(() => open(), [open]);

  const choose = (next: number) => {
    if (!transport || next === heard || next >= destinations.length) return;
    setLastHeard(heard);
    transport.listen(next);
  };
  const isMute = (one: string, where: string | null) =>
    mutes.some((mute) => mute.source === one && mute.destination === where);
  const mute = (one: string, where: string | null, on = !isMute(one, where)) =>
    setMutes((before) => [
      ...before.filter((other) => other.source !== one || other.destination !== where),
      ...(on ? [{ source: one, destination: where }] : []),
    ]);
  const toggleSolo = (one: string) =>
    setSolo((before) => (before.includes(one) ? before.filter((other) => other !== one) : [...before, one]));
  const setLevel = (one: string, change: (gainDb: number) => number) =>
    actions.edit((now) => {
      const gainDb = reachOf(now).at(one, destination)?.gainDb ?? -20;
      return faderEdit(now, one, destination, change(gainDb));
    });
  const setOwnLevel = (one: string, change: (levelDb: number) => number) =>
    actions.edit((now) => {
      const known = now.sources.find(({ id }) => id === one)?.levelDb ?? 0;
      const levelDb = nearestGain(Math.max(MIN_GAIN_DB, Math.min(MAX_GAIN_DB, change(known))));
      return { edit: 'updateSource', id: one, values: { levelDb } };
    });
  const goTo = (timeS: number) => {
    transport?.seek(timeS);
    void transport?.play();
  };
  const toggle = () => (status === 'playing' ? transport?.pause() : void transport?.play());
  const nextMoment = () => {
    const now = (transport?.timeS() ?? 0) + LEAD_S + 0.3;
    const next = moments.find(({ fromS }) => fromS > now) ?? moments[0];
    if (next) goTo(leadingTo(next.fromS));
  };
  const loopHere = () => {
    if (!transport) return;
    if (loop) return transport.setLoop(null);
    const now = transport.timeS();
    const here = moments.find(({ fromS, untilS }) => now >= fromS - LEAD_S - 0.5 && now <= untilS + 1);
    const fromS = leadingTo(here ? here.fromS : now);
    transport.setLoop({ fromS, untilS: Math.min(endS, here ? here.untilS + 1 : fromS + 6) });
  };
  const owner = { kind: 'setups' as const, id: setupId };
  const marks = useMarks(owner).data ?? [];
  const mark = () => {
    if (!transport) return;
    const atS = Math.max(0, Math.round(transport.timeS() * 100) / 100);
    addMarks(owner, [{ atS, endS: null, name: `Mark ${marks.length + 1}` }]).catch((error: Error) =>
      notify('trouble', error.message),
    );
  };
  useRehearsalKeys({
    mark,
    toggle,
    choose,
    compare: () => lastHeard !== null && choose(lastHeard),
    moveRow: (by) => setRow((at) => Math.max(0, Math.min(setup.sources.length - 1, at + by))),
    jump: (byS) => transport?.seek(transport.timeS() + byS),
    nudge: (byDb) => source && setLevel(source.id, (gainDb) => gainDb + byDb),
    mute: (everywhere) => source && mute(source.id, everywhere ? null : destination),
    nudgeAll: (byDb) => source && setOwnLevel(source.id, (levelDb) => levelDb + byDb),
    hold: (on, everywhere) => source && mute(source.id, everywhere ? null : destination, on),
    solo: () => source && toggleSolo(source.id),
    nextMoment,
    loop: loopHere,
  });

  if (!setup.sources.some(({ media }) => media))
    return <NoRecordings title="There is nothing to rehearse with yet" sourcesPath={`${path}/sources`} />;
  if (error) return <Unreadable error={error} onAgain={again} />;
  if (isPending || !transport) return <ReadingRecordings />;
  return (
    <div className="relative grid h-full grid-cols-[minmax(0,1fr)] wide:grid-cols-[minmax(0,1fr)_19rem] narrow:pb-11">
      <div className="flex min-w-0 flex-col gap-2 overflow-auto px-5 py-3 narrow:px-3">
        <ScreenTitle title="Rehearse">
          Everything sounds at once. Choose where to listen, and you hear what arrives there. Nothing changes
          for the others.
        </ScreenTitle>
        <div className="flex flex-wrap items-center gap-2">
          <Button weight="main" onClick={toggle} className="min-w-24 justify-center">
            {status === 'playing' ? <Pause size={15} /> : <Play size={15} />}
            {status === 'playing' ? 'Pause' : status === 'loading' ? 'Opening …' : 'Play'}
          </Button>
          <span className="w-24 text-center">
            <PlayedAt transport={transport} testId="clock" />{' '}
            <span className="text-soft">of {formatClock(endS)}</span>
          </span>
          <Button onClick={nextMoment} disabled={moments.length === 0}>
            <SkipForward size={15} /> Next moment
          </Button>
          <Button onClick={loopHere} aria-pressed={loop !== null}>
            {loop ? <X size={15} /> : <Repeat size={15} />}
            {loop ? `End the loop ${formatClock(loop.fromS)}–${formatClock(loop.untilS)}` : 'Loop here'}
          </Button>
          <Button onClick={mark} title="Goes along with takes, to their clips and into the editor">
            <Bookmark size={15} /> Mark here
          </Button>
          {mutes.length > 0 && (
            <Button onClick={() => setMutes(() => [])}>Unmute all ({mutes.length})</Button>
          )}
          {solo.length > 0 && <Button onClick={() => setSolo(() => [])}>Hear all again</Button>}
          <Dropouts transport={transport} />
          {message && (
            <span role="alert" className="text-sm text-clay">
              {message}
            </span>
          )}
        </div>
        {setup.sources
          .filter(({ stuck }) => stuck)
          .map((one) => (
            <p
              key={one.id}
              className="flex flex-wrap items-center gap-x-3 border-l-4 border-reed bg-sheet px-3 py-1 text-sm"
            >
              <span>
                <strong>{one.name}</strong> is stuck: it plays, and is silent. Move its output to another
                device, and back.
              </span>
              <Button
                onClick={() =>
                  actions.edit({ edit: 'updateSource', id: one.id, values: {}, clear: ['stuck'] })
                }
              >
                It sounds again
              </Button>
            </p>
          ))}
        <Score
          setup={setup}
          reach={reach}
          courses={courses}
          moments={moments}
          endS={endS}
          transport={transport}
          loop={loop}
          row={row}
          destination={here}
          isMute={isMute}
          onRow={setRow}
          isSolo={(one) => solo.includes(one)}
          onSolo={toggleSolo}
          onMute={mute}
          onLevel={(one, gainDb) => setLevel(one, () => gainDb)}
          onOwnLevel={(one, levelDb) => setOwnLevel(one, () => levelDb)}
          onProcess={(one) => setProcessed({ source: one })}
          onSeek={(timeS) => transport.seek(timeS)}
          onLoop={(fromS, untilS) => transport.setLoop({ fromS, untilS })}
        />
        {moments.length > 0 && (
          <section aria-label="Moments" className="flex flex-wrap gap-1.5">
            {moments.map(({ fromS, text }) => (
              <Button key={`${fromS} ${text}`} onClick={() => goTo(leadingTo(fromS))}>
                <span className="text-soft">{formatClock(fromS)}</span> {text}
              </Button>
            ))}
          </section>
        )}
        <MarkList owner={owner} marks={marks} onHear={(atS) => goTo(leadingTo(atS))} />
        <KeyLegend keys={KEYS_OF.rehearse} />
      </div>
      {processed && (
        <ProcessingSheet
          {...whatIsProcessed(setup, reach, processed, here, heard)}
          transport={transport}
          compare={{ destination: here.id, onCompare: setHeardEdit }}
          onClose={() => setProcessed(null)}
        />
      )}
      <SidePanel
        label="Hear it as"
        className="wide:px-3"
        summary={
          <>
            Hear it as: <strong>{here.name}</strong>
          </>
        }
      >
        <h2 className="pl-2 font-title text-lg">Hear it as</h2>
        <DestinationList
          setup={setup}
          destinations={destinations}
          chosen={heard}
          compared={lastHeard}
          transport={transport}
          onChoose={choose}
          onProcess={() => setProcessed('everything')}
        />
        <p className="pt-2 pl-2 text-xs text-soft">
          Water: loudness now (LUFS). Mark below and figure: of the last 3 s. Line: highest peak. Bracket: the
          target.
        </p>
      </SidePanel>
    </div>
  );
}

/** What the processing sheet is about: a source, or everything that somebody gets; and whose spectrum it shows. */
function whatIsProcessed(
  setup: Setup,
  reach: Reach,
  processed: { source: string } | 'everything',
  destination: NamedDestination,
  heardIndex: number,
) {
  const index =
    processed === 'everything' ? -1 : setup.sources.findIndex(({ id }) => id === processed.source);
  const source = setup.sources[index];
  return source
    ? {
        title: `Processing of ${source.name}`,
        places: placesOfSource(setup, reach, source, destination),
        source,
        looks: index,
      }
    : {
        title: `Processing of everything that ${destination.name} gets`,
        places: placesOfDestination(setup, reach, destination),
        looks: setup.sources.length + heardIndex,
      };
}

/** Says how often the sound broke up, if it did: what is heard then is not what the setup does. */
function Dropouts({ transport }: { transport: Transport }) {
  const text = useRef<HTMLSpanElement>(null);
  const draw = useCallback(() => {
    const count = transport.dropouts() ?? 0;
    const words =
      count === 0
        ? ''
        : `The sound broke up ${count} ${count === 1 ? 'time' : 'times'}: this computer could not keep up.`;
    if (text.current && text.current.textContent !== words) text.current.textContent = words;
  }, [transport]);
  useEveryFrame(draw);
  return <span ref={text} role="status" data-testid="dropouts" className="text-sm text-reed" />;
}
