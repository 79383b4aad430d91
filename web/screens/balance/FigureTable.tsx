import type { Aim } from '../../../core/balance/aims.ts';
import type { MixFigures } from '../../../core/balance/figures.ts';
import type { Balanced } from '../../../core/balance/solve.ts';
import type { DestinationMeasures } from '../../../core/records.ts';
import { formatLevel } from '../../format.ts';
import { Button } from '../../parts/controls.tsx';
import { Term } from '../../parts/Term.tsx';

/** The figures of a destination, with those that were solved, and what a render measured. */
export function FigureTable({
  before,
  solved,
  aim,
  rendered,
  isMeasuring,
  onMeasure,
}: {
  before: MixFigures;
  solved: Balanced | null;
  aim: Aim;
  rendered: DestinationMeasures | undefined;
  isMeasuring: boolean;
  onMeasure: () => void;
}) {
  const rows: [name: string, unit: string, of: (figures: MixFigures) => number | null, aim: number | null][] =
    [
      ['Loudness', 'LUFS', ({ integratedLufs }) => integratedLufs, aim.targetLufs],
      ['Voices over the bed', 'LU', ({ voiceOverBedLu }) => voiceOverBedLu, aim.bedLu],
      ['Loudness range', 'LU', ({ loudnessRangeLu }) => loudnessRangeLu, null],
      ['Short-term, at most', 'LUFS', ({ maxShortTermLufs }) => maxShortTermLufs, null],
    ];
  return (
    <div
      className="flex flex-wrap items-stretch gap-x-6 gap-y-2 border-y border-rule py-2"
      data-testid="figures"
    >
      {rows.map(([name, unit, of, wanted]) => (
        <div key={name} className="min-w-28">
          <p className="text-xs text-soft">
            {name} (<Term word={unit} />)
          </p>
          <p className="text-lg leading-tight">
            {formatLevel(of(before), unit)}
            {solved && <span className="text-water"> → {formatLevel(of(solved.after), unit)}</span>}
          </p>
          {wanted !== null && <p className="text-xs text-soft">aim {formatLevel(wanted, unit)}</p>}
        </div>
      ))}
      <div className="min-w-36">
        <p className="text-xs text-soft">
          <Term word="true peak">True peak</Term>, measured
        </p>
        {rendered ? (
          <p className="text-lg leading-tight" data-testid="measured">
            {formatLevel(rendered.truePeakDbtp, 'dBTP')}
            <span className="block text-xs text-soft">
              and {formatLevel(rendered.integratedLufs, 'LUFS')}, in a render
            </span>
          </p>
        ) : (
          <Button onClick={onMeasure} disabled={isMeasuring}>
            {isMeasuring ? 'Rendering …' : 'Render and measure'}
          </Button>
        )}
      </div>
    </div>
  );
}
