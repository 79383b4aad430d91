import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Ear } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { type Aim, aimOf } from '../../../core/balance/aims.ts';
import { limiterEdit } from '../../../core/balance/peaks.ts';
import { type Balanced, balanceAll, balanceEdit } from '../../../core/balance/solve.ts';
import { HOLDS_LU, offsetsOf } from '../../../core/balance/verified.ts';
import { leadingTo } from '../../../core/proof/moments.ts';
import { faderEdit } from '../../../core/reach/linkedCells.ts';
import type { DestinationMeasures } from '../../../core/records.ts';
import { type Edit, nameOf } from '../../../core/setup/edits.ts';
import { settled } from '../../api/setups.ts';
import { measuresOf } from '../../api/sounds.ts';
import { formatLevel } from '../../format.ts';
import { Button, ScreenTitle } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { NoRecordings, ReadingRecordings, Unreadable } from '../../parts/soundStates.tsx';
import { type BalancedMix, useBalance } from '../../parts/useBalance.ts';
import { useRehearsal } from '../../rehearsal.tsx';
import { useSetup } from '../../setupContext.tsx';
import { AimFields } from './AimFields.tsx';
import { CheckLine } from './CheckLine.tsx';
import { CourseChart } from './CourseChart.tsx';
import { DestinationLine } from './DestinationLine.tsx';
import { FigureTable } from './FigureTable.tsx';
import { LevelTable } from './LevelTable.tsx';
import { useCheck } from './useCheck.ts';

/** Balance: what is to hold true at each destination, levels that make it so, and the figures that they reach. */
export function BalanceScreen() {
  const { setup, actions, path } = useSetup();
  const { query, reach, input, balanced, hasSounds } = useBalance(setup);
  const [chosen, setChosen] = useState('live');
  const [results, setResults] = useState<{ of: typeof setup; list: Balanced[] } | null>(null);
  /** What is to be solved again once a change has been taken in, by destination. */
  const [again, setAgain] = useState<string[] | null>(null);
  const { measures, isMeasuring, measure, adopt } = useMeasured();
  const { check, start, cancel } = useCheck();
  const { transport, state, play, listen } = useRehearsal();
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when one comes here: what is looked at is heard
  useEffect(() => listen(chosen), []);
  const peaks = useMemo(
    () =>
      new Map(
        measures.flatMap(({ destinationId, truePeakDbtp }) =>
          truePeakDbtp === null ? [] : [[destinationId, truePeakDbtp] as const],
        ),
      ),
    [measures],
  );

  const offsets = useMemo(
    () =>
      offsetsOf(
        balanced.map(({ mix, figures }) => ({ destinationId: mix.destination.id, ...figures })),
        measures,
      ),
    [balanced, measures],
  );

  const verified = check?.status === 'checked' ? check.verified : null;
  const solvedNow = verified?.results ?? (results?.of === setup ? results.list : NONE_SOLVED);
  const newLevels = useMemo(
    () => (solvedNow.length > 0 ? balanceEdit(setup, solvedNow, (one) => nameOf(setup, one)) : null),
    [setup, solvedNow],
  );
  const comparison = useHeardEdit(newLevels);

  const solve = (balancedMixes: BalancedMix[]) => {
    if (!input) return;
    const known = { ...input, peaksDbtp: peaks, offsetsLu: offsets };
    const mixes = balancedMixes.map(({ mix }) => mix);
    setResults({ of: setup, list: balanceAll(known, mixes) });
    void start(known, mixes);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: when what was changed has been taken in
  useEffect(() => {
    if (!again || !input) return;
    setAgain(null);
    solve(balanced.filter(({ mix }) => again.includes(mix.destination.id)));
  }, [input]);

  if (!hasSounds)
    return <NoRecordings title="There is nothing to balance yet" sourcesPath={`${path}/sources`} />;
  if (query.isError) return <Unreadable error={query.error} onAgain={() => query.refetch()} />;
  const here = balanced.find(({ mix }) => mix.destination.id === chosen) ?? balanced[0];
  if (!input || !here) return <ReadingRecordings />;
  const { destination } = here.mix;
  const aim = aimOf(setup, destination);
  const solved = solvedNow.find(({ sendTo }) => sendTo === destination.sendTo) ?? null;
  const limiter = solved?.isPeakLimited ? limiterEdit(setup, destination, aim.ceilingDbtp) : null;
  const rendered = measures.find(({ destinationId }) => destinationId === destination.id);
  const apply = () => {
    if (newLevels) actions.edit(newLevels);
    setResults(null);
    void (verified ? adopt(verified.measured) : measure());
  };
  const setAim = (values: Partial<Aim>) =>
    actions.edit({ edit: 'setAim', destination: destination.id, values });

  return (
    <div className="h-full grid-cols-[16rem_minmax(0,1fr)] wide:grid narrow:overflow-auto">
      <aside className="overflow-auto border-r border-rule bg-sheet px-3 py-3">
        <ScreenTitle title="Balance" />
        <ul aria-label="Destinations" className="pt-1">
          {balanced.map((one) => (
            <DestinationLine
              key={one.mix.destination.id}
              balanced={one}
              aim={aimOf(setup, one.mix.destination)}
              isChosen={one === here}
              onChoose={() => {
                setChosen(one.mix.destination.id);
                listen(one.mix.destination.id);
              }}
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
            {newLevels && (
              <Button
                aria-pressed={comparison.isHeard}
                className={comparison.isHeard ? 'border-ink font-semibold' : ''}
                onClick={() => {
                  comparison.setHeard(!comparison.isHeard);
                  play({ destination: destination.id });
                }}
              >
                <Ear size={15} /> {comparison.isHeard ? 'New levels heard' : 'Hear the new levels'}
              </Button>
            )}
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
          rendered={rendered}
          isMeasuring={isMeasuring}
          onMeasure={() => void measure()}
        />
        {solved && <CheckLine check={check} destinationId={destination.id} onCancel={cancel} />}
        {solved && solved.obstacles.length > 0 && (
          <ul aria-label="What stood in the way" className="text-sm text-clay">
            {solved.obstacles.map((text) => (
              <li key={text}>{text}</li>
            ))}
            {limiter && (
              <li className="pt-1">
                <Button
                  onClick={() => {
                    setAgain(solvedNow.map(({ destinationId }) => destinationId));
                    actions.edit(limiter);
                  }}
                >
                  Put a limiter on everything here, and solve again
                </Button>
              </li>
            )}
          </ul>
        )}
        {!solved && rendered && (rendered.truePeakDbtp ?? -99) > aim.ceilingDbtp && (
          <p role="status" className="text-sm text-clay">
            The measured true peak of {formatLevel(rendered.truePeakDbtp, 'dBTP')} is above{' '}
            {formatLevel(aim.ceilingDbtp, 'dBTP')}. Solve again: it is known now, and will be kept.
          </p>
        )}
        {Math.abs(offsets.get(destination.id) ?? 0) > HOLDS_LU && (
          <p role="status" className="text-sm text-clay">
            A render is {formatLevel(offsets.get(destination.id) ?? 0, 'LU')} off the figures above, by what
            they leave out (what works on everything together, hum, drift). Solving takes it into account.
          </p>
        )}
        <CourseChart
          courses={here.courses}
          buried={here.figures.buried}
          targetLufs={aim.targetLufs}
          transport={state.status === 'playing' ? transport : null}
          onHear={(timeS) => play({ timeS: leadingTo(timeS), destination: destination.id })}
        />
        <LevelTable
          setup={setup}
          reach={reach}
          balanced={here}
          aim={aim}
          solved={solved}
          onLevel={(source, gainDb) => actions.edit((now) => faderEdit(now, source, destination.id, gainDb))}
          onWish={(source, wish) => {
            const { [source]: _, ...others } = aim.wishes;
            setAim({ wishes: wish === null ? others : { ...others, [source]: wish } });
          }}
        />
      </div>
    </div>
  );
}

const NOTHING: DestinationMeasures[] = [];
const NONE_SOLVED: Balanced[] = [];

/** Lets an edit be heard that is not made yet, as long as that is wanted and the screen is open. */
function useHeardEdit(edit: Edit | null) {
  const { setHeardEdit } = useRehearsal();
  const [isWanted, setHeard] = useState(false);
  const isHeard = isWanted && edit !== null;
  useEffect(() => {
    setHeardEdit(isHeard ? edit : null);
    return () => setHeardEdit(null);
  }, [isHeard, edit, setHeardEdit]);
  useEffect(() => {
    if (edit === null) setHeard(false);
  }, [edit]);
  return { isHeard, setHeard };
}

/** What the server measured of the setup as it is, and having it measured once every change has arrived there. */
function useMeasured() {
  const { id, revision } = useSetup();
  const notify = useNotify();
  const queries = useQueryClient();
  const newest = useRef(revision);
  newest.current = revision;
  const { data: measures = NOTHING, isFetching } = useQuery({ ...measuresOf(id, revision), enabled: false });
  const measure = async () => {
    await settled(id);
    await queries
      .fetchQuery(measuresOf(id, newest.current))
      .catch((error: Error) => notify('trouble', error.message));
  };
  /** Takes what was measured of a setup with an edit, once that edit has been made. */
  const adopt = async (found: DestinationMeasures[]) => {
    await settled(id);
    queries.setQueryData(measuresOf(id, newest.current).queryKey, found);
  };
  return { measures, isMeasuring: isFetching, measure, adopt };
}
