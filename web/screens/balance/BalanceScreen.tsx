import { clsx } from 'clsx';
import { useEffect, useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { type Aim, aimOf } from '../../../core/balance/aims.ts';
import type { MixFigures } from '../../../core/balance/figures.ts';
import { type Balanced, balanceAll, balanceEdit } from '../../../core/balance/solve.ts';
import { HOLDS_LU, offsetsOf } from '../../../core/balance/verified.ts';
import type { EarMeasures } from '../../../core/records.ts';
import { cellEdit } from '../../../core/routing/cell.ts';
import { nameOf } from '../../../core/setup/edits.ts';
import { isSaving } from '../../api/setups.ts';
import { measureEars } from '../../api/sounds.ts';
import { formatLevel } from '../../format.ts';
import { Button, ScreenTitle } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { NoRecordings, ReadingRecordings, Unreadable } from '../../parts/soundStates.tsx';
import { type BalancedMix, useBalance } from '../../parts/useBalance.ts';
import { useSetup } from '../../setupContext.tsx';
import { AimFields } from './AimFields.tsx';
import { CourseChart } from './CourseChart.tsx';
import { LevelTable } from './LevelTable.tsx';

/** Balance: what is to hold true at each destination, levels that make it so, and the figures that they reach. */
export function BalanceScreen() {
  const { id, setup, revision, actions, path } = useSetup();
  const navigate = useNavigate();
  const { query, reach, input, balanced, hasSounds } = useBalance(setup);
  const [chosen, setChosen] = useState('live');
  const [results, setResults] = useState<{ of: typeof setup; list: Balanced[] } | null>(null);
  const { measured, isMeasuring, measure } = useMeasured(id);
  const isCurrent = measured?.revision === revision;
  const peaks = useMemo(
    () =>
      new Map(
        (isCurrent ? (measured?.ears ?? []) : []).flatMap(({ destinationId, truePeakDbtp }) =>
          truePeakDbtp === null ? [] : [[destinationId, truePeakDbtp] as const],
        ),
      ),
    [measured, isCurrent],
  );

  const offsets = useMemo(
    () =>
      offsetsOf(
        balanced.map(({ mix, figures }) => ({ destinationId: mix.destination.id, ...figures })),
        isCurrent ? (measured?.ears ?? []) : [],
      ),
    [balanced, measured, isCurrent],
  );

  if (!hasSounds)
    return <NoRecordings title="There is nothing to balance yet" sourcesPath={`${path}/sources`} />;
  if (query.isError) return <Unreadable error={query.error} onAgain={() => query.refetch()} />;
  const here = balanced.find(({ mix }) => mix.destination.id === chosen) ?? balanced[0];
  if (!input || !here) return <ReadingRecordings />;
  const { destination } = here.mix;
  const aim = aimOf(setup, destination);
  const solvedNow = results?.of === setup ? results.list : [];
  const solved = solvedNow.find(({ feedId }) => feedId === destination.feedId) ?? null;
  const ear = measured?.ears.find(({ destinationId }) => destinationId === destination.id);
  const solve = (mixes: BalancedMix[]) =>
    setResults({
      of: setup,
      list: balanceAll(
        { ...input, peaksDbtp: peaks, offsetsLu: offsets },
        mixes.map(({ mix }) => mix),
      ),
    });
  const apply = () => {
    const edit = balanceEdit(setup, solvedNow, (one) => nameOf(setup, one));
    if (edit) actions.edit(edit);
    setResults(null);
    void measure();
  };
  const setAim = (values: Partial<Aim>) =>
    actions.edit({ edit: 'setAim', destination: destination.id, values });

  return (
    <div className="grid h-full grid-cols-[16rem_minmax(0,1fr)]">
      <aside className="overflow-auto border-r border-rule bg-sheet px-3 py-3">
        <ScreenTitle title="Balance" />
        <ul aria-label="Destinations" className="pt-1">
          {balanced.map((one) => (
            <DestinationLine
              key={one.mix.destination.id}
              balanced={one}
              aim={aimOf(setup, one.mix.destination)}
              isChosen={one === here}
              onChoose={() => setChosen(one.mix.destination.id)}
            />
          ))}
        </ul>
      </aside>
      <div className="flex min-w-0 flex-col gap-3 overflow-auto px-5 py-3">
        <div className="flex flex-wrap items-end justify-between gap-3">
          <h2 className="font-title text-2xl leading-tight">{destination.name}</h2>
          <AimFields aim={aim} onChange={setAim} />
          <div className="flex gap-2">
            <Button onClick={() => solve(balanced)}>Solve all</Button>
            <Button weight={solvedNow.length > 0 ? 'plain' : 'main'} onClick={() => solve([here])}>
              Solve
            </Button>
            {solvedNow.length > 0 && (
              <Button weight="main" onClick={apply}>
                Apply{solvedNow.length > 1 ? ` to ${solvedNow.length}` : ''}
              </Button>
            )}
          </div>
        </div>
        <FigureTable
          before={here.figures}
          solved={solved}
          aim={aim}
          ear={isCurrent ? ear : undefined}
          isMeasuring={isMeasuring}
          onMeasure={() => void measure()}
        />
        {solved && solved.obstacles.length > 0 && (
          <ul aria-label="What stood in the way" className="text-sm text-clay">
            {solved.obstacles.map((text) => (
              <li key={text}>{text}</li>
            ))}
          </ul>
        )}
        {ear && isCurrent && (ear.truePeakDbtp ?? -99) > aim.ceilingDbtp && (
          <p role="status" className="text-sm text-clay">
            The measured true peak of {formatLevel(ear.truePeakDbtp, 'dBTP')} is above{' '}
            {formatLevel(aim.ceilingDbtp, 'dBTP')}. Solve again: it is known now, and will be kept.
          </p>
        )}
        {Math.abs(offsets.get(destination.id) ?? 0) > HOLDS_LU && (
          <p role="status" className="text-sm text-clay">
            A render is {formatLevel(offsets.get(destination.id) ?? 0, 'LU')} off the figures above, by what
            they leave out (hum, drift). Solve again: that is known now.
          </p>
        )}
        <LevelTable
          setup={setup}
          reach={reach}
          balanced={here}
          aim={aim}
          solved={solved}
          onLevel={(source, gainDb) => actions.edit((now) => cellEdit(now, source, destination.id, gainDb))}
          onWish={(source, wish) => {
            const { [source]: _, ...others } = aim.wishes;
            setAim({ wishes: wish === null ? others : { ...others, [source]: wish } });
          }}
        />
        <CourseChart
          courses={here.courses}
          buried={here.figures.buried}
          targetLufs={aim.targetLufs}
          onHear={(timeS) =>
            navigate(`${path}/rehearse?at=${Math.max(0, timeS - 2).toFixed(1)}&ear=${destination.id}`)
          }
        />
      </div>
    </div>
  );
}

/** What the server measured last, and asking it to measure again once every change has arrived there. */
function useMeasured(setupId: string) {
  const notify = useNotify();
  const [measured, setMeasured] = useState<{ revision: number; ears: EarMeasures[] } | null>(null);
  const [isMeasuring, setMeasuring] = useState(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was measured belongs to one setup
  useEffect(() => setMeasured(null), [setupId]);
  const measure = async () => {
    setMeasuring(true);
    try {
      while (isSaving(setupId)) await new Promise((resolve) => setTimeout(resolve, 50));
      setMeasured(await measureEars(setupId));
    } catch (error) {
      notify('trouble', error instanceof Error ? error.message : String(error));
    } finally {
      setMeasuring(false);
    }
  };
  return { measured, isMeasuring, measure };
}

function DestinationLine({
  balanced: { mix, figures },
  aim,
  isChosen,
  onChoose,
}: {
  balanced: BalancedMix;
  aim: Aim;
  isChosen: boolean;
  onChoose: () => void;
}) {
  const off = offTarget(figures, aim);
  return (
    <li className="border-b border-rule last:border-0">
      <button
        type="button"
        aria-pressed={isChosen}
        onClick={onChoose}
        className={clsx(
          'block w-full py-1.5 text-left leading-tight hover:bg-paper',
          isChosen ? 'border-l-[3px] border-l-water pl-2' : 'pl-[11px]',
        )}
      >
        <span className={clsx('flex justify-between gap-2', isChosen && 'font-semibold text-water')}>
          <span className="truncate">{mix.destination.name}</span>
          <span className="whitespace-nowrap">{formatLevel(figures.integratedLufs, 'LUFS')}</span>
        </span>
        <span className="block text-xs text-soft">
          {figures.voiceOverBedLu !== null && `bed ${figures.voiceOverBedLu.toFixed(1)} LU under the voices`}
        </span>
        {off !== null && (
          <span className="block text-xs font-semibold text-reed">off target by {off} LU</span>
        )}
        {figures.buried.length > 0 && (
          <span className="block text-xs font-semibold text-clay">
            buried: {figures.buried.length} {figures.buried.length === 1 ? 'place' : 'places'}
          </span>
        )}
      </button>
    </li>
  );
}

/** By how much a destination misses its target, when that is more than 1 LU. */
function offTarget({ integratedLufs }: MixFigures, { targetLufs }: Aim): string | null {
  if (targetLufs === null || integratedLufs === null) return null;
  const off = integratedLufs - targetLufs;
  return Math.abs(off) > 1 ? `${off > 0 ? '+' : '−'}${Math.abs(off).toFixed(1)}` : null;
}

function FigureTable({
  before,
  solved,
  aim,
  ear,
  isMeasuring,
  onMeasure,
}: {
  before: MixFigures;
  solved: Balanced | null;
  aim: Aim;
  ear: EarMeasures | undefined;
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
          <p className="text-xs text-soft">{name}</p>
          <p className="text-lg leading-tight">
            {formatLevel(of(before), unit)}
            {solved && <span className="text-water"> → {formatLevel(of(solved.after), unit)}</span>}
          </p>
          {wanted !== null && <p className="text-xs text-soft">aim {formatLevel(wanted, unit)}</p>}
        </div>
      ))}
      <div className="min-w-36">
        <p className="text-xs text-soft">True peak, measured</p>
        {ear ? (
          <p className="text-lg leading-tight" data-testid="measured">
            {formatLevel(ear.truePeakDbtp, 'dBTP')}
            <span className="block text-xs text-soft">
              and {formatLevel(ear.integratedLufs, 'LUFS')}, in a render
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
