import { clsx } from 'clsx';
import { ArrowLeft, Table2 } from 'lucide-react';
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import { DRILL_KINDS, type Drill, type DrillRun, drillsOf, runDrills } from '../../../core/drills/drills.ts';
import { destinationsOf } from '../../../core/reach/destinations.ts';
import { today } from '../../format.ts';
import { Blank, Button, ScreenTitle } from '../../parts/controls.tsx';
import { useSetup } from '../../setupContext.tsx';
import { AllDrills } from './AllDrills.tsx';
import { DrillDetail } from './DrillDetail.tsx';
import { Outcome, stopsOf } from './Outcome.tsx';

const KIND_TITLES: Record<(typeof DRILL_KINDS)[number], string> = {
  restart: 'An app restarts',
  stuck: 'An app gets stuck',
  unplug: 'A device is unplugged',
  'new game': 'A new game',
  scene: 'The scene changes',
  'music in the call': 'In the call',
  'crossed chat': 'The chat app',
  'listening in': 'Listening in',
  'headphones off': 'Loudspeakers',
};

/** Drills: everything that could happen on an evening, run at once; one opened shows what it would do. */
export function DrillsScreen() {
  const { setup, path } = useSetup();
  const [chosen, setChosen] = useState<string | null>(null);
  const results = useMemo(() => runDrills(setup, drillsOf(setup), today()), [setup]);
  const [isAll, setAll] = useState(false);
  const openDrill = (id: string) => {
    setChosen(id);
    setAll(false);
  };
  const open = results.find(({ drill }) => drill.id === chosen) ?? worst(results);
  if (!open) {
    return (
      <Blank title="Nothing to drill yet">
        <p>
          Drills try what happens when an app restarts, a device is unplugged or a scene changes. They need
          the machines and devices of your room.
        </p>
        <Link to={`${path}/wiring`} className="text-water underline">
          Say how the sound gets there
        </Link>
      </Blank>
    );
  }
  const isOpen = (drill: Drill) => !isAll && drill.id === open.drill.id;
  return (
    <div className="h-full grid-cols-[27rem_minmax(0,1fr)] wide:grid narrow:overflow-auto">
      <div className="overflow-auto border-r border-rule px-5 py-3">
        <Link to={`${path}/reach`} className="mb-1 inline-flex items-center gap-1 text-sm text-water">
          <ArrowLeft size={14} /> Reach
        </Link>
        <ScreenTitle title="Drills">
          What would happen if … Nothing is changed by looking. {summary(results)}
        </ScreenTitle>
        <Button className="mt-2" aria-pressed={isAll} onClick={() => setAll(!isAll)}>
          <Table2 size={14} /> Run all drills
        </Button>
        {DRILL_KINDS.map((kind) => {
          const mine = results.filter(({ drill }) => drill.kind === kind);
          if (mine.length === 0) return null;
          return (
            <section key={kind} className="mt-4">
              <h2 className="border-b border-soft text-xs text-soft">{KIND_TITLES[kind]}</h2>
              <ul>
                {mine.map(({ drill, result }) => (
                  <li key={drill.id} className="border-b border-rule">
                    <button
                      type="button"
                      aria-current={isOpen(drill)}
                      onClick={() => openDrill(drill.id)}
                      className={clsx(
                        'flex w-full items-baseline justify-between gap-3 py-1.5 text-left hover:bg-sunk',
                        isOpen(drill) && 'bg-sunk font-semibold',
                      )}
                    >
                      <span className="leading-snug">{drill.label}</span>
                      <Outcome result={result} />
                    </button>
                  </li>
                ))}
              </ul>
            </section>
          );
        })}
      </div>
      {isAll ? (
        <AllDrills results={results} destinations={destinationsOf(setup)} onOpen={openDrill} />
      ) : (
        <DrillDetail key={open.drill.id} {...open} />
      )}
    </div>
  );
}

function worst(results: DrillRun[]): DrillRun | undefined {
  return [...results].sort(
    (a, b) => stopsOf(b.result) - stopsOf(a.result) || b.result.findings.length - a.result.findings.length,
  )[0];
}

function summary(results: DrillRun[]): string {
  const bad = results.filter(({ result }) => stopsOf(result) > 0).length;
  return bad === 0
    ? `All ${results.length} pass without a stop.`
    : `${bad} of ${results.length} would bring a stop.`;
}
