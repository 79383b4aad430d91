import { useMemo, useRef, useState } from 'react';
import { CartesianGrid, Line, LineChart, ReferenceLine, ResponsiveContainer, XAxis, YAxis } from 'recharts';
import { SAMPLE_RATE } from '../../../core/audio/planes.ts';
import { kindOf, type Processing, type Processor } from '../../../core/processors/processing.ts';
import { responseDb } from '../../../core/signal/biquad.ts';
import type { Transport } from '../../audio/transport.ts';
import { formatPlain } from '../../format.ts';
import { axisStyle, gridStyle } from '../../parts/chart.ts';
import { CurveKnob } from './CurveKnob.tsx';
import { hzAt, PLOT } from './plot.ts';
import { Spectrum } from './Spectrum.tsx';

const POINTS = 120;

interface CurveChartProps {
  processing: Processing;
  transport: Transport | null;
  onChange: (index: number, step: Processor) => void;
}

/**
 * What the filters that are on do to each frequency, over what of the source sounds now. Each filter has a knob, which is
 * dragged, or moved with the arrow keys; the change is made when it is let go.
 */
export function CurveChart({ processing, transport, onChange }: CurveChartProps) {
  const frame = useRef<HTMLDivElement>(null);
  const [dragged, setDragged] = useState<{ index: number; step: Processor } | null>(null);
  const shown = useMemo(
    () => processing.map((step, index) => (dragged?.index === index ? dragged.step : step)),
    [processing, dragged],
  );
  const data = useMemo(() => {
    const sections = shown.flatMap((step) =>
      step.off ? [] : (kindOf(step).filter?.(step, SAMPLE_RATE) ?? []),
    );
    return Array.from({ length: POINTS }, (_, i) => {
      const hz = hzAt(i / (POINTS - 1));
      const gainDb = sections.reduce((sum, section) => sum + responseDb(section, hz, SAMPLE_RATE), 0);
      return { hz, gainDb: Math.max(PLOT.lowDb, Math.min(PLOT.highDb, gainDb)) };
    });
  }, [shown]);
  return (
    <figure className="m-0 mt-2" aria-label="What the filters do">
      <div className="relative h-40" ref={frame}>
        {transport && <Spectrum transport={transport} />}
        <ResponsiveContainer width="100%" height="100%">
          <LineChart data={data} margin={{ top: PLOT.top, right: PLOT.right, bottom: 0, left: 0 }}>
            <CartesianGrid {...gridStyle} />
            <ReferenceLine y={0} stroke="var(--soft)" />
            <XAxis
              dataKey="hz"
              type="number"
              scale="log"
              domain={[PLOT.lowHz, PLOT.highHz]}
              ticks={[50, 100, 200, 500, 1000, 2000, 5000, 10_000]}
              tickFormatter={(hz: number) => (hz >= 1000 ? `${hz / 1000}k` : String(hz))}
              height={PLOT.bottom}
              {...axisStyle}
            />
            <YAxis
              domain={[PLOT.lowDb, PLOT.highDb]}
              ticks={[-24, -12, 0, 12, 24]}
              tickFormatter={formatPlain}
              width={PLOT.left}
              {...axisStyle}
            />
            <Line
              dataKey="gainDb"
              stroke="var(--water)"
              strokeWidth={2}
              dot={false}
              isAnimationActive={false}
            />
          </LineChart>
        </ResponsiveContainer>
        {shown.map((step, index) =>
          !step.off && (step.does === 'band' || step.does === 'high-pass') ? (
            <CurveKnob
              key={`${index} ${step.does}`}
              step={step}
              number={index + 1}
              frame={frame}
              onDrag={(next) => setDragged({ index, step: next })}
              onSet={(next) => {
                setDragged(null);
                onChange(index, next);
              }}
            />
          ) : null,
        )}
      </div>
      <figcaption className="text-xs text-soft">
        Gain (dB) at each frequency (Hz). Drag a knob, or use the arrow keys; Shift and ↑ ↓ change the Q.
        {transport && ' Reed: how it sounds now.'}
      </figcaption>
    </figure>
  );
}
