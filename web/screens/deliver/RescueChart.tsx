import { CartesianGrid, Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { RescuedStretch } from '../../../core/deliver/records.ts';
import { formatClock, formatPlain } from '../../format.ts';
import { axisStyle, gridStyle, noteStyle } from '../../parts/chart.ts';

const LOWEST_DB = -60;
const LINES = [
  { key: 'before', name: 'before', color: 'var(--clay)' },
  { key: 'after', name: 'after, at most', color: 'var(--moss)' },
];

/** How loud the sound was in the track over time, and how loud it is no more than now (dB against the sound alone). */
export function RescueChart({ parts }: { parts: RescuedStretch[] }) {
  if (parts.length === 0) return null;
  const points = parts.flatMap(({ startS, endS, levelDb, downDb }) => {
    const after = levelDb - (downDb ?? 0);
    return [
      { atS: startS, before: levelDb, after },
      { atS: endS, before: levelDb, after },
      { atS: endS, before: null, after: null },
    ];
  });
  const highest = Math.max(0, Math.ceil(Math.max(...parts.map(({ levelDb }) => levelDb)) / 10) * 10);
  return (
    <figure aria-label="How loud it was, and how loud it is now, over time">
      <figcaption className="flex gap-4 text-xs">
        {LINES.map(({ name, color }) => (
          <span key={name} style={{ color }}>
            — {name}
          </span>
        ))}
      </figcaption>
      <div className="h-36">
        <ResponsiveContainer width="100%" height="100%">
          <LineChart data={points} margin={{ top: 6, right: 8, bottom: 0, left: 0 }}>
            <CartesianGrid {...gridStyle} />
            <XAxis
              dataKey="atS"
              type="number"
              domain={['dataMin', 'dataMax']}
              tickFormatter={formatClock}
              {...axisStyle}
            />
            <YAxis
              width={52}
              domain={[LOWEST_DB, highest]}
              tickFormatter={(db: number) => `${formatPlain(db)} dB`}
              {...axisStyle}
            />
            <Tooltip
              {...noteStyle}
              labelFormatter={(atS) => formatClock(Number(atS))}
              formatter={(db, name) => [`${formatPlain(Math.round(Number(db)))} dB`, name]}
            />
            {LINES.map(({ name, key, color }) => (
              <Line
                key={key}
                name={name}
                dataKey={key}
                stroke={color}
                strokeWidth={2}
                dot={false}
                isAnimationActive={false}
              />
            ))}
          </LineChart>
        </ResponsiveContainer>
      </div>
    </figure>
  );
}
