import { useMemo } from 'react';
import { CartesianGrid, Line, LineChart, ReferenceLine, ResponsiveContainer, XAxis, YAxis } from 'recharts';
import { SAMPLE_RATE } from '../../../core/engine/planes.ts';
import type { Processing } from '../../../core/setup/processing.ts';
import { responseDb } from '../../../core/signal/biquad.ts';
import { filterOf } from '../../../core/signal/filterOf.ts';
import { axisStyle, gridStyle } from '../../parts/chart.ts';

const POINTS = 120;
const LOWEST_HZ = 20;
const HIGHEST_HZ = 20_000;

/** What the filters that are on do to each frequency. */
export function CurveChart({ processing }: { processing: Processing }) {
  const data = useMemo(() => {
    const sections = processing.flatMap((step) => (step.off ? [] : (filterOf(step, SAMPLE_RATE) ?? [])));
    if (sections.length === 0) return null;
    return Array.from({ length: POINTS }, (_, i) => {
      const hz = LOWEST_HZ * (HIGHEST_HZ / LOWEST_HZ) ** (i / (POINTS - 1));
      const gainDb = sections.reduce((sum, section) => sum + responseDb(section, hz, SAMPLE_RATE), 0);
      return { hz, gainDb: Math.max(-30, Math.min(24, gainDb)) };
    });
  }, [processing]);
  if (!data)
    return <p className="mt-3 text-sm text-soft">No filter is on: every frequency goes through as it is.</p>;
  return (
    <figure className="m-0 mt-3" aria-label="What the filters do">
      <div className="h-36">
        <ResponsiveContainer width="100%" height="100%">
          <LineChart data={data} margin={{ top: 4, right: 8, bottom: 0, left: -20 }}>
            <CartesianGrid {...gridStyle} />
            <ReferenceLine y={0} stroke="var(--soft)" />
            <XAxis
              dataKey="hz"
              type="number"
              scale="log"
              domain={[LOWEST_HZ, HIGHEST_HZ]}
              ticks={[50, 100, 200, 500, 1000, 2000, 5000, 10_000]}
              tickFormatter={(hz: number) => (hz >= 1000 ? `${hz / 1000}k` : String(hz))}
              {...axisStyle}
            />
            <YAxis domain={[-30, 24]} ticks={[-24, -12, 0, 12, 24]} {...axisStyle} />
            <Line
              dataKey="gainDb"
              stroke="var(--water)"
              strokeWidth={2}
              dot={false}
              isAnimationActive={false}
            />
          </LineChart>
        </ResponsiveContainer>
      </div>
      <figcaption className="text-xs text-soft">Gain (dB) at each frequency (Hz).</figcaption>
    </figure>
  );
}
