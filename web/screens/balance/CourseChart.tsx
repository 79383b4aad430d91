import { memo, useCallback, useMemo, useRef } from 'react';
import {
  CartesianGrid,
  Line,
  LineChart,
  ReferenceArea,
  ReferenceLine,
  ResponsiveContainer,
  Tooltip,
  XAxis,
  YAxis,
} from 'recharts';
import type { MixCourses, MixFigures } from '../../../core/balance/figures.ts';
import { BLOCK_S, meansOf } from '../../../core/measure/covariance.ts';
import { toLufs } from '../../../core/measure/loudness.ts';
import type { Transport } from '../../audio/transport.ts';
import { formatClock, formatLevel, formatPlain } from '../../format.ts';
import { axisStyle, clockTicks, gridStyle, noteStyle } from '../../parts/chart.ts';
import { useEveryFrame } from '../../parts/useEveryFrame.ts';

const POINTS = 260;
const LOWEST = -60;
/** What is drawn is at least smoothed like this (blocks of 100 ms). */
const WINDOW_BLOCKS = 10;

/** What stands beside the plot (px). */
const PLOT = { left: 40, right: 8 };

const LINES = [
  { key: 'sum', name: 'everything', color: 'var(--soft)', width: 1, dash: '3 3' },
  { key: 'bed', name: 'bed', color: 'var(--reed)', width: 1.5, dash: undefined },
  { key: 'voice', name: 'voices', color: 'var(--water)', width: 2, dash: undefined },
] as const;

interface CourseChartProps {
  courses: MixCourses;
  buried: MixFigures['buried'];
  targetLufs: number | null;
  /** What plays, if something does. */
  transport: Transport | null;
  onHear: (timeS: number) => void;
}

/** Voices, bed and everything over time; where a voice is buried is marked, and a click there lets it be heard. */
export const CourseChart = memo(function CourseChart({
  courses,
  buried,
  targetLufs,
  transport,
  onHear,
}: CourseChartProps) {
  const data = useMemo(() => {
    const step = Math.max(1, Math.ceil(courses.sum.length / POINTS));
    const window = Math.max(WINDOW_BLOCKS, step);
    const smooth = {
      voice: meansOf(courses.voice, window),
      bed: meansOf(courses.bed, window),
      sum: meansOf(courses.sum, window),
    };
    const level = (power: number) => {
      const lufs = toLufs(power);
      return lufs > LOWEST ? lufs : null;
    };
    return Array.from({ length: Math.ceil(smooth.sum.length / step) }, (_, i) => ({
      timeS: (i * step + window / 2) * BLOCK_S,
      voice: level(smooth.voice[i * step]),
      bed: level(smooth.bed[i * step]),
      sum: level(smooth.sum[i * step]),
    }));
  }, [courses]);
  return (
    <figure className="m-0" aria-label="Voices and bed over time">
      <div className="relative h-36">
        <ResponsiveContainer width="100%" height="100%">
          <LineChart
            data={data}
            margin={{ top: 6, right: PLOT.right, bottom: 0, left: 0 }}
            onClick={(state) => {
              const timeS = Number(state?.activeLabel);
              if (Number.isFinite(timeS)) onHear(timeS);
            }}
          >
            <CartesianGrid {...gridStyle} vertical={false} />
            {buried.map(({ fromS, untilS }) => (
              <ReferenceArea key={fromS} x1={fromS} x2={untilS} fill="var(--clay)" fillOpacity={0.18} />
            ))}
            {targetLufs !== null && (
              <ReferenceLine y={targetLufs} stroke="var(--ink)" strokeDasharray="6 3" />
            )}
            <XAxis
              dataKey="timeS"
              type="number"
              domain={[0, 'dataMax']}
              ticks={clockTicks(data.at(-1)?.timeS ?? 0)}
              tickFormatter={formatClock}
              {...axisStyle}
            />
            <YAxis
              domain={[LOWEST, 0]}
              ticks={[-60, -40, -20, 0]}
              tickFormatter={formatPlain}
              width={PLOT.left}
              {...axisStyle}
            />
            <Tooltip
              {...noteStyle}
              labelFormatter={(timeS) => formatClock(Number(timeS))}
              formatter={(value, name) => [formatLevel(Number(value), 'LUFS'), name]}
            />
            {LINES.map(({ key, name, color, width, dash }) => (
              <Line
                key={key}
                dataKey={key}
                name={name}
                stroke={color}
                strokeWidth={width}
                strokeDasharray={dash}
                dot={false}
                isAnimationActive={false}
                connectNulls={false}
              />
            ))}
          </LineChart>
        </ResponsiveContainer>
        {transport && <PlayHead transport={transport} endS={data.at(-1)?.timeS ?? 0} />}
      </div>
      <figcaption className="flex flex-wrap gap-x-4 text-xs text-soft">
        {LINES.toReversed().map(({ key, name, color, dash }) => (
          <span key={key} className="inline-flex items-center gap-1.5">
            <svg width="20" height="4" aria-hidden="true">
              <line x1="0" y1="2" x2="20" y2="2" stroke={color} strokeWidth="2" strokeDasharray={dash} />
            </svg>
            {name}
          </span>
        ))}
        <span>
          LUFS over 1 s. Clay: a voice is buried (less than 3 LU over the bed). Click to hear a place.
        </span>
      </figcaption>
    </figure>
  );
});

/** A line where it plays. */
function PlayHead({ transport, endS }: { transport: Transport; endS: number }) {
  const head = useRef<HTMLSpanElement>(null);
  const draw = useCallback(() => {
    if (!head.current) return;
    const share = endS > 0 ? Math.min(1, transport.timeS() / endS) : 0;
    head.current.style.left = `calc(${PLOT.left}px + (100% - ${PLOT.left + PLOT.right}px) * ${share})`;
  }, [transport, endS]);
  useEveryFrame(draw);
  return <span ref={head} className="pointer-events-none absolute top-1.5 bottom-8 w-0.5 bg-reed" />;
}
