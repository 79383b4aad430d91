import { Bar, BarChart, Cell, ReferenceLine, ResponsiveContainer, XAxis } from 'recharts';
import type { Calibration } from '../../../core/measure/calibrate.ts';
import { formatPlain } from '../../format.ts';
import { axisStyle } from '../../parts/chart.ts';

/** The histogram begins at this level (dBFS); what is drawn, at the other. */
const FIRST_DB = -120;
const SHOWN_DB = -90;

/** How often each level was found in a recording, with the lines that were read from it. */
export function LevelHistogram({ found }: { found: Calibration }) {
  const data = found.histogram
    .map((count, i) => ({ db: FIRST_DB + i, count }))
    .filter(({ db }) => db >= SHOWN_DB);
  const lines = [
    line(found.floorDb, 'floor', 'end'),
    line(found.gateDb, 'gate', 'end'),
    line(found.speechDb, 'speech', 'start'),
  ].flat();
  return (
    <figure className="m-0" aria-label="Levels in the recording">
      <div className="h-24">
        <ResponsiveContainer width="100%" height="100%">
          <BarChart data={data} margin={{ top: 16, right: 8, bottom: 0, left: 8 }} barCategoryGap={0}>
            <XAxis
              dataKey="db"
              ticks={[-90, -60, -30, 0]}
              tickFormatter={formatPlain}
              height={20}
              {...axisStyle}
            />
            {lines.map(({ db, text, anchor }) => (
              <ReferenceLine
                key={text}
                x={Math.round(db)}
                stroke="var(--clay)"
                label={{
                  value: text,
                  position: 'top',
                  textAnchor: anchor,
                  fontSize: 11,
                  fill: 'var(--clay)',
                }}
              />
            ))}
            <Bar dataKey="count" isAnimationActive={false}>
              {data.map(({ db }) => (
                <Cell
                  key={db}
                  fill={
                    found.thresholdDb !== null && db >= found.thresholdDb ? 'var(--water)' : 'var(--soft)'
                  }
                />
              ))}
            </Bar>
          </BarChart>
        </ResponsiveContainer>
      </div>
      <figcaption className="text-xs text-soft">
        How often each level occurs (dBFS, 50 ms); water: what counts as speech.
      </figcaption>
    </figure>
  );
}

/** A line at a level, and on which side of it its name stands; none where the level is not known, or not drawn. */
function line(db: number | null, text: string, anchor: 'start' | 'end') {
  return db === null || db < SHOWN_DB ? [] : [{ db, text, anchor }];
}
