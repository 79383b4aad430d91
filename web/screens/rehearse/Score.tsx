import { clsx } from 'clsx';
import { SlidersHorizontal, Volume2, VolumeX } from 'lucide-react';
import { type PointerEvent, useCallback, useRef, useState } from 'react';
import { stepsOn, wordFor } from '../../../core/processors/processing.ts';
import type { Moment, SourceCourse } from '../../../core/proof/moments.ts';
import type { Reach } from '../../../core/reach/reach.ts';
import type { Passage } from '../../../core/records.ts';
import type { Setup, Source } from '../../../core/setup/schema.ts';
import type { Transport } from '../../audio/transport.ts';
import { formatClock } from '../../format.ts';
import { clockTicks } from '../../parts/chart.ts';
import { Button, DbField } from '../../parts/controls.tsx';
import { Strip } from '../../parts/Strip.tsx';
import { useEveryFrame } from '../../parts/useEveryFrame.ts';

/** A drag shorter than this (s) is a click. */
const SHORTEST_LOOP_S = 0.5;

interface ScoreProps {
  setup: Setup;
  reach: Reach;
  courses: SourceCourse[];
  moments: Moment[];
  endS: number;
  transport: Transport;
  loop: Passage | null;
  row: number;
  destination: { id: string; name: string };
  isMute: (source: string, destination: string | null) => boolean;
  isSolo: (source: string) => boolean;
  onSolo: (source: string) => void;
  onRow: (row: number) => void;
  onMute: (source: string, destination: string | null) => void;
  onLevel: (source: string, gainDb: number) => void;
  /** The level of the source itself, for all destinations. */
  onOwnLevel: (source: string, levelDb: number) => void;
  onSeek: (timeS: number) => void;
  onLoop: (fromS: number, untilS: number) => void;
  onProcess: (source: string) => void;
}

/** The sources over time, each with its level at the destination that is heard; a click goes there, a drag loops a passage. */
export function Score(props: ScoreProps) {
  const {
    setup,
    reach,
    courses,
    transport,
    row,
    destination,
    isMute,
    isSolo,
    onSolo,
    onRow,
    onMute,
    onLevel,
    onOwnLevel,
    onProcess,
  } = props;
  return (
    <div className="overflow-x-auto">
      <table className="w-full border-collapse" aria-label="Sources over time">
        <thead>
          <tr className="text-left text-xs text-soft">
            <th className="w-36 pb-0.5 font-normal">source</th>
            <th className="pb-0.5 font-normal">
              <Ruler {...props} />
            </th>
            <th className="w-[4.75rem] pb-0.5 pl-2 font-normal whitespace-nowrap">here, dB</th>
            <th className="w-[4.75rem] pb-0.5 pl-2 font-normal whitespace-nowrap">for all, dB</th>
            <th className="w-[11rem] pb-0.5 pl-2 font-normal">mute, solo</th>
            <th className="w-24 pb-0.5 pl-1 font-normal">processing</th>
          </tr>
        </thead>
        <tbody>
          {setup.sources.map((source, index) => {
            const course = courses.find((one) => one.source.id === source.id);
            const gainDb = reach.at(source.id, destination.id)?.gainDb ?? null;
            const here = isMute(source.id, destination.id);
            const everywhere = isMute(source.id, null);
            return (
              <tr
                key={source.id}
                aria-current={index === row}
                onPointerDown={() => onRow(index)}
                onFocus={() => onRow(index)}
                className={clsx('h-10 border-t border-rule', index === row && 'bg-sheet')}
              >
                <th scope="row" className="max-w-36 pr-2 text-left font-normal">
                  <span className="flex items-center gap-1.5">
                    <SoundingMark
                      transport={transport}
                      source={index}
                      sources={setup.sources.length}
                      name={source.name}
                    />
                    <span
                      className={clsx(
                        'truncate leading-tight',
                        index === row && 'font-semibold text-water',
                        (here || everywhere) && 'text-soft line-through',
                      )}
                    >
                      {source.name}
                    </span>
                  </span>
                </th>
                <td className="relative p-0">
                  <Timed {...props} className="h-9">
                    {course ? (
                      <Strip powers={course.powers} label={`${source.name} over time`} />
                    ) : (
                      <span className="pl-2 text-xs text-soft">no recording</span>
                    )}
                  </Timed>
                </td>
                <td className="pl-2 whitespace-nowrap">
                  {gainDb === null ? (
                    <span className="text-sm text-soft">not here</span>
                  ) : (
                    <DbField
                      value={gainDb}
                      label={`${source.name} at ${destination.name}`}
                      unit=""
                      onChange={(next) => onLevel(source.id, next)}
                    />
                  )}
                </td>
                <td className="pl-2 whitespace-nowrap">
                  <DbField
                    value={source.levelDb}
                    label={`${source.name} for all`}
                    unit=""
                    onChange={(next) => onOwnLevel(source.id, next)}
                  />
                </td>
                <td className="pl-2">
                  <div className="flex gap-1">
                    <Button
                      weight={here ? 'danger' : 'plain'}
                      aria-pressed={here}
                      disabled={gainDb === null}
                      aria-label={`Mute ${source.name} here`}
                      onClick={() => onMute(source.id, destination.id)}
                    >
                      {here ? <VolumeX size={14} /> : <Volume2 size={14} />} here
                    </Button>
                    <Button
                      weight={everywhere ? 'danger' : 'plain'}
                      aria-pressed={everywhere}
                      aria-label={`Mute ${source.name} at all destinations`}
                      onClick={() => onMute(source.id, null)}
                    >
                      all
                    </Button>
                    <Button
                      weight={isSolo(source.id) ? 'main' : 'plain'}
                      aria-pressed={isSolo(source.id)}
                      aria-label={`solo: hear ${source.name} alone`}
                      onClick={() => onSolo(source.id)}
                    >
                      solo
                    </Button>
                  </div>
                </td>
                <td className="pl-1">
                  <ProcessingButton source={source} onClick={() => onProcess(source.id)} />
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

/** Opens the processing of a source; says how much there is of it. */
function ProcessingButton({ source, onClick }: { source: Source; onClick: () => void }) {
  const steps = stepsOn(source.processing);
  const words = steps.length === 0 ? 'none yet' : steps.length === 1 ? '1 step' : `${steps.length} steps`;
  return (
    <Button
      weight="quiet"
      aria-label={`Processing of ${source.name}: ${words}`}
      title={steps.map(wordFor).join(', ') || 'Nothing is done to it yet'}
      className={clsx('px-1!', steps.length > 0 ? 'text-water' : 'text-soft')}
      onClick={onClick}
    >
      <SlidersHorizontal size={14} />
      {words}
    </Button>
  );
}

function SoundingMark({
  transport,
  source,
  sources,
  name,
}: {
  transport: Transport;
  source: number;
  sources: number;
  name: string;
}) {
  const mark = useRef<HTMLSpanElement>(null);
  const draw = useCallback(() => {
    const { report, state } = transport;
    const peak = report[report.length - sources + source];
    const isSounding = state.status === 'playing' && peak > 0.003;
    mark.current?.toggleAttribute('data-sounding', isSounding);
  }, [transport, source, sources]);
  useEveryFrame(draw);
  return (
    <span
      ref={mark}
      role="img"
      aria-label={`${name}: sounds when filled`}
      className="inline-block h-2.5 w-2.5 shrink-0 rotate-45 border border-water data-sounding:bg-water"
    />
  );
}

/** The time line above the strips, with moments and minutes. */
function Ruler(props: ScoreProps) {
  const { moments, endS } = props;
  return (
    <Timed {...props} className="h-6 border border-b-0 border-rule bg-sheet">
      {clockTicks(endS).map((timeS) => (
        <span
          key={timeS}
          className="absolute inset-y-0 border-l border-rule pl-1 text-[11px] leading-4"
          style={{ left: `${(100 * timeS) / endS}%` }}
        >
          {formatClock(timeS)}
        </span>
      ))}
      {moments.map(({ fromS, untilS, text }) => (
        <span
          key={`${fromS} ${text}`}
          title={text}
          className="absolute bottom-0 h-1.5 bg-reed"
          style={{ left: `${(100 * fromS) / endS}%`, width: `${(100 * (untilS - fromS)) / endS}%` }}
        />
      ))}
    </Timed>
  );
}

/** A stretch of paper that stands for the whole time: it shows where it plays, takes clicks and drags. */
function Timed({
  endS,
  transport,
  loop,
  onSeek,
  onLoop,
  className,
  children,
}: Pick<ScoreProps, 'endS' | 'transport' | 'loop' | 'onSeek' | 'onLoop'> & {
  className: string;
  children: React.ReactNode;
}) {
  const head = useRef<HTMLSpanElement>(null);
  const [drag, setDrag] = useState<Passage | null>(null);
  const draw = useCallback(() => {
    if (head.current) head.current.style.left = `${(100 * transport.timeS()) / endS}%`;
  }, [transport, endS]);
  useEveryFrame(draw);
  const timeAt = (event: PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect();
    return Math.max(0, Math.min(endS, ((event.clientX - box.left) / box.width) * endS));
  };
  const shown = drag ?? loop;
  return (
    <div
      className={clsx('relative cursor-text touch-none overflow-hidden', className)}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        setDrag({ fromS: timeAt(event), untilS: timeAt(event) });
      }}
      onPointerMove={(event) => drag && setDrag({ ...drag, untilS: timeAt(event) })}
      onPointerUp={() => {
        if (!drag) return;
        const [fromS, untilS] = [Math.min(drag.fromS, drag.untilS), Math.max(drag.fromS, drag.untilS)];
        if (untilS - fromS >= SHORTEST_LOOP_S) onLoop(fromS, untilS);
        else onSeek(drag.fromS);
        setDrag(null);
      }}
    >
      {children}
      {shown && (
        <span
          className="pointer-events-none absolute inset-y-0 border-x border-heather bg-heather/15"
          style={{
            left: `${(100 * Math.min(shown.fromS, shown.untilS)) / endS}%`,
            width: `${(100 * Math.abs(shown.untilS - shown.fromS)) / endS}%`,
          }}
        />
      )}
      <span ref={head} className="pointer-events-none absolute inset-y-0 w-0.5 bg-reed" style={{ left: 0 }} />
    </div>
  );
}
