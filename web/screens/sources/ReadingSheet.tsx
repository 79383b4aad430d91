import {
  Bar,
  BarChart,
  CartesianGrid,
  ReferenceLine,
  ResponsiveContainer,
  Tooltip,
  XAxis,
  YAxis,
} from 'recharts';
import type { Calibration } from '../../../core/measure/calibrate.ts';
import { useCalibration } from '../../api/sounds.ts';
import { formatLevel } from '../../format.ts';
import { axisStyle, gridStyle, noteStyle } from '../../parts/chart.ts';
import { Button } from '../../parts/controls.tsx';
import { Sheet } from '../../parts/Sheet.tsx';

interface ReadingSheetProps {
  name: string;
  path: string;
  onClose: () => void;
}

/** What a recording says about the microphone and the room: levels, where a gate would open, hum, clipping. */
export function ReadingSheet({ name, path, onClose }: ReadingSheetProps) {
  const query = useCalibration(path);
  return (
    <Sheet title={`What ${name} is like`} onClose={onClose}>
      {query.isPending && <p className="text-soft">Reading the recording …</p>}
      {query.error && (
        <div className="space-y-2">
          <p role="alert" className="text-clay">
            {query.error.message}
          </p>
          <Button onClick={() => query.refetch()}>Try again</Button>
        </div>
      )}
      {query.data && <Reading found={query.data} />}
    </Sheet>
  );
}

function Reading({ found }: { found: Calibration }) {
  const facts: [name: string, value: string][] = [
    ['Noise floor', formatLevel(found.floorDb, 'dBFS')],
    ['Speech', formatLevel(found.speechDb, 'dBFS')],
    ['Quietest speech', formatLevel(found.quietSpeechDb, 'dBFS')],
    ['A gate opens at', formatLevel(found.gateDb, 'dBFS')],
    ['Hum', found.hum ? `${found.hum.hz} Hz, ${found.hum.overDb.toFixed(0)} dB over` : 'none'],
  ];
  return (
    <div className="space-y-3">
      <dl className="grid grid-cols-[auto_1fr_auto_1fr] gap-x-3 gap-y-1">
        {facts.map(([name, value]) => (
          <div key={name} className="contents">
            <dt className="text-soft">{name}</dt>
            <dd className="m-0 text-right">{value}</dd>
          </div>
        ))}
      </dl>
      {found.remarks.length > 0 ? (
        <ul aria-label="Remarks" className="text-clay">
          {found.remarks.map((text) => (
            <li key={text}>{text}</li>
          ))}
        </ul>
      ) : (
        <p className="text-moss">Nothing stands in the way of a clean voice.</p>
      )}
      <Histogram found={found} />
    </div>
  );
}

/** How often each level occurs, with the lines that were read from it. */
function Histogram({ found }: { found: Calibration }) {
  const data = found.histogram
    .map((count, bin) => ({ level: bin - 120, seconds: count / 20 }))
    .filter(({ level }) => level > -100);
  const lines = [
    { name: 'floor', at: found.floorDb, color: 'var(--soft)' },
    { name: 'gate', at: found.gateDb, color: 'var(--reed)' },
    { name: 'speech', at: found.speechDb, color: 'var(--water)' },
  ];
  return (
    <figure className="m-0" aria-label="How often each level occurs">
      <div className="h-44">
        <ResponsiveContainer width="100%" height="100%">
          <BarChart data={data} margin={{ top: 28, right: 8, bottom: 0, left: -20 }} barCategoryGap={0}>
            <CartesianGrid {...gridStyle} vertical={false} />
            <XAxis
              dataKey="level"
              type="number"
              domain={[-100, 0]}
              ticks={[-100, -80, -60, -40, -20, 0]}
              {...axisStyle}
            />
            <YAxis {...axisStyle} />
            <Tooltip
              {...noteStyle}
              labelFormatter={(level) => `${level} dBFS`}
              formatter={(seconds) => [`${Number(seconds).toFixed(1)} s`, 'at this level']}
            />
            <Bar dataKey="seconds" fill="var(--water-pale)" isAnimationActive={false} />
            {lines.map(
              ({ name, at, color }) =>
                at !== null && (
                  <ReferenceLine
                    key={name}
                    x={at}
                    stroke={color}
                    strokeWidth={2}
                    label={{
                      value: name,
                      position: 'top',
                      fontSize: 11,
                      fill: color,
                      dy: name === 'gate' ? -11 : 0,
                    }}
                  />
                ),
            )}
          </BarChart>
        </ResponsiveContainer>
      </div>
      <figcaption className="text-xs text-soft">
        Seconds at each level (RMS over 50 ms, dBFS). The gate opens 3 dB under the quietest speech.
      </figcaption>
    </figure>
  );
}
