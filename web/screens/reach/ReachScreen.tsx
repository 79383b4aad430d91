import { LifeBuoy, Plus, SlidersHorizontal } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { Link, useLocation } from 'react-router';
import { MARKS, type Mark } from '../../../core/findings/codes.ts';
import type { Finding } from '../../../core/findings/finding.ts';
import { withoutAir } from '../../../core/reach/air.ts';
import { trackLimitOf } from '../../../core/reach/destinations.ts';
import { fusedGroups, fusedNames } from '../../../core/reach/fused.ts';
import { intentOf } from '../../../core/reach/intent.ts';
import { faderEdit } from '../../../core/reach/linkedCells.ts';
import { type Reach, reachOf } from '../../../core/reach/reach.ts';
import type { Edit } from '../../../core/setup/edits.ts';
import type { Setup } from '../../../core/setup/schema.ts';
import { mediaPath, useMedia } from '../../api/media.ts';
import { type ShownCause, useCauses } from '../../causes.tsx';
import { Blank, Button, fieldClass, ScreenTitle } from '../../parts/controls.tsx';
import { goTo } from '../../parts/goTo.ts';
import { KeyLegend } from '../../parts/KeyLegend.tsx';
import { SidePanel } from '../../parts/SidePanel.tsx';
import { Term } from '../../parts/Term.tsx';
import { useSteady } from '../../parts/useSteady.ts';
import { useSetup } from '../../setupContext.tsx';
import { findingsByCell, GRAVEST, knownReach } from '../../setupFindings.ts';
import { Board, inGroups } from './Board.tsx';
import { CellPanel } from './CellPanel.tsx';
import { type CellState, cellState, describeCell, MARK_LOOKS, markIn } from './cells.ts';
import { FindingCard } from './FindingCard.tsx';
import { HeardSection } from './HeardSection.tsx';
import { MeantList } from './MeantList.tsx';
import { type ReachDialog, ReachDialogs } from './ReachDialogs.tsx';
import { type Place, useBoardKeys } from './useBoardKeys.ts';

/** As many findings are listed at first; the gravest come first. */
const SHOWN = 30;

const KEYS: [key: string, what: string][] = [
  ['arrows', 'move'],
  ['space', 'open or close'],
  ['+ −', '1 dB'],
  ['figures, Enter', 'set the level'],
  ['G', 'gravest finding'],
  ['?', 'all keys'],
];

/** Reach: the board, the cell that is chosen, and the findings with their remedies. */
export function ReachScreen() {
  const { setup, actions, path } = useSetup();
  const { data: media } = useMedia();
  const [place, setPlace] = useState<Place>({ row: 0, column: 0 });
  const [opened, setOpened] = useState<string | null>(null);
  const [dialog, setDialog] = useState<ReachDialog | null>(null);
  const [chosenScene, setScene] = useState('');
  const scene = setup.scenes.some(({ id }) => id === chosenScene) ? chosenScene : '';
  const [isLong, setLong] = useState(false);
  const list = useRef<HTMLUListElement>(null);
  const applied = useRef(false);
  const lastLevels = useRef(new Map<string, number>());

  const known = useCauses();
  const isHere = ({ scenes }: Finding) => scene === '' || scenes === null || scenes.includes(scene);
  const findings = known.open.filter(isHere);
  const causes = known.causes.filter(({ brings }) => brings.some(isHere));
  // biome-ignore lint/correctness/useExhaustiveDependencies: the findings go with the setup and the scene
  const view = useMemo(() => boardOf(setup, scene, findings), [setup, scene, known.open]);
  const { reach, cellAt } = view;
  const fused = useMemo(() => fusedIn(known.of, scene), [known.of, scene]);
  const destinations = useMemo(() => inGroups(reach.destinations), [reach]);
  const alone = new Set(findings.filter((one) => one.code === 'no-own-track').map((one) => one.source ?? ''));
  const at = {
    row: Math.min(place.row, setup.sources.length - 1),
    column: Math.min(place.column, destinations.length - 1),
  };
  const source = setup.sources[at.row];
  const destination = destinations[at.column];

  /** Changes a cell, from the setup as it stands when the key is pressed. */
  const change = ({ row, column }: Place, next: (cell: CellState) => number | null) => {
    const [sourceId, destinationId] = [setup.sources[row].id, destinations[column].id];
    actions.edit((now) => {
      const cell = (now === setup ? view : boardOf(now, scene, [])).cellAt(sourceId, destinationId);
      return faderEdit(now, sourceId, destinationId, next(cell));
    });
  };
  const set = (place: Place, gainDb: number | null) => change(place, () => gainDb);
  const toggle = (place: Place) =>
    change(place, ({ gainDb, wantedDb }) => {
      const key = `${setup.sources[place.row].id} ${destinations[place.column].id}`;
      if (gainDb !== null) lastLevels.current.set(key, gainDb);
      return gainDb === null ? (wantedDb ?? lastLevels.current.get(key) ?? 0) : null;
    });
  const keys = useBoardKeys({
    rows: setup.sources.length,
    columns: destinations.length,
    at,
    move: (next) => {
      setOpened(null);
      setPlace(next);
    },
    toggle: () => toggle(at),
    nudge: (byDb) => change(at, ({ gainDb }) => (gainDb === null ? -20 : gainDb + byDb)),
    set: (gainDb) => set(at, gainDb),
    close: () => set(at, null),
  });

  // biome-ignore lint/correctness/useExhaustiveDependencies: the findings that are left, once a remedy was applied
  useEffect(() => {
    if (!applied.current) return;
    applied.current = false;
    list.current?.querySelector<HTMLElement>('button[aria-expanded=true]')?.focus();
  }, [findings]);

  const { hash, key } = useLocation();
  // biome-ignore lint/correctness/useExhaustiveDependencies: each time somebody asks for it
  useEffect(() => {
    if (hash !== GRAVEST) return;
    const gravest = causes[0];
    if (gravest) setOpened(gravest.finding.id);
    requestAnimationFrame(() => {
      const button = list.current?.querySelector<HTMLElement>('button[aria-expanded]');
      (button ?? document.getElementById('findings'))?.focus();
      button?.scrollIntoView({ block: 'nearest' });
    });
  }, [hash, key]);

  const here = findings.find((one) => one.source === source?.id && one.destination === destination?.id);
  const causeOf = (id: string | undefined) =>
    causes.find(({ brings }) => brings.some((one) => one.id === id))?.finding.id ?? id;
  const openId = opened ?? causeOf(here?.id) ?? causes[0]?.finding.id;
  const placeAt = (finding: Finding) => {
    const row = setup.sources.findIndex(({ id }) => id === finding.source);
    const column = destinations.findIndex(({ id }) => id === finding.destination);
    if (row >= 0) setPlace({ row, column: column >= 0 ? column : at.column });
  };
  const goToFinding = useSteady((cause: ShownCause, finding: Finding) => {
    placeAt(finding);
    setOpened(cause.finding.id);
  });
  const openCause = useSteady(({ finding }: ShownCause) => {
    setOpened(openId === finding.id ? '' : finding.id);
    placeAt(finding);
  });
  const applyRemedy = useSteady((edit: Edit) => {
    applied.current = true;
    actions.edit(edit);
    setOpened(null);
  });

  if (!source || !destination) {
    return (
      <Blank title="There is nothing to route yet">
        <p>
          The board shows what arrives where. It needs sources: your microphone, the game, friends in voice
          chat, music.
        </p>
        <Link to={`${path}/sources`} className="text-water underline">
          Add the first source
        </Link>
      </Blank>
    );
  }

  const shown = isLong ? causes : causes.filter((one, index) => index < SHOWN || one.finding.id === openId);
  const stops = causes.filter(({ finding }) => finding.severity === 'stop').length;
  const used = setup.tracks.length;
  const limit = trackLimitOf(setup);
  return (
    <div className="relative grid h-full grid-cols-[minmax(0,1fr)] wide:grid-cols-[minmax(0,1fr)_22rem] narrow:pb-11">
      <button type="button" className="skip-link" onClick={goTo('findings')}>
        To the findings
      </button>
      <div className="flex min-h-0 min-w-0 flex-col gap-2 px-5 py-3 narrow:overflow-auto narrow:px-3">
        <div className="flex flex-wrap items-end justify-between gap-x-4 gap-y-2">
          <ScreenTitle title="What reaches whom">
            {stops > 0
              ? 'How loud each source reaches each destination. Fix the stops first.'
              : 'How loud each source reaches each destination.'}
          </ScreenTitle>
          <div className="flex flex-wrap items-center gap-2 text-sm text-soft">
            {setup.scenes.length > 0 && (
              <select
                aria-label="Scene"
                className={fieldClass}
                value={scene}
                onChange={(event) => setScene(event.target.value)}
              >
                <option value="">all scenes</option>
                {setup.scenes.map(({ id, name }) => (
                  <option key={id} value={id}>
                    scene {name}
                  </option>
                ))}
              </select>
            )}
            <span>
              {used} of {limit} tracks
            </span>
            <Link
              to={`${path}/reach/drills`}
              className="inline-flex items-center gap-1.5 rounded-sm border border-rule bg-sheet px-2.5 py-1 text-ink hover:border-ink"
            >
              <LifeBuoy size={14} /> Drills
            </Link>
            <Button onClick={() => setDialog('recorder')}>
              <SlidersHorizontal size={14} /> Recorder
            </Button>
            <Button aria-label="Add track" onClick={() => setDialog('add-track')}>
              <Plus size={14} /> Track
            </Button>
            <Button aria-label="Add destination" onClick={() => setDialog('add-destination')}>
              <Plus size={14} /> Destination
            </Button>
          </div>
        </div>
        <Board
          sources={setup.sources}
          destinations={destinations}
          alone={alone}
          fused={fused}
          cellAt={cellAt}
          at={at}
          typed={keys.typed}
          onSelect={(next) => {
            if (next.row !== at.row || next.column !== at.column) keys.stopTyping();
            if (next.row !== at.row || next.column !== at.column) setOpened(null);
            setPlace(next);
          }}
          onToggle={toggle}
          onKeyDown={keys.onKeyDown}
          onBlur={keys.stopTyping}
          onTrack={(one) => setDialog(one.track ? { track: one.track.id } : 'add-track')}
          onDestination={(one) => setDialog({ destination: one.id })}
          onMoveTrack={(id, beside) =>
            actions.edit({ edit: 'moveTrack', id, to: setup.tracks.findIndex((one) => one.id === beside) })
          }
        />
        <p className="sr-only" role="status">
          {describeCell(source.name, destination.name, cellAt(source.id, destination.id))}
        </p>
        <Legend marks={view.marks} />
      </div>
      <SidePanel
        label="Cell and findings"
        className="flex flex-col gap-3"
        summary={
          <>
            <strong>{source.name}</strong> to <strong>{destination.name}</strong> ·{' '}
            {causesText(causes.length)}
          </>
        }
      >
        <CellPanel
          source={source}
          destination={destination}
          cell={cellAt(source.id, destination.id)}
          reach={reach}
          media={media?.find((one) => mediaPath(one) === source.media?.path)}
          onSet={(gainDb) => set(at, gainDb)}
          onToggle={() => toggle(at)}
          fusedWith={fusedNames(setup, fused, source.id)}
          onSeparate={() => setDialog({ separate: source.id })}
          setup={setup}
          onEdit={actions.edit}
        />
        <section aria-label="Findings">
          <h2 id="findings" tabIndex={-1} className="font-title text-lg">
            {causes.length === 0 ? 'Nothing is wrong' : causesText(causes.length)}
            {causes.length > 0 && (
              <span className="font-sans text-sm text-soft">
                {' '}
                {known.isCurrent
                  ? `of ${findings.length === 1 ? '1 finding' : `${findings.length} findings`}`
                  : 'looking for causes …'}
              </span>
            )}
          </h2>
          {findings.length === 0 ? (
            <p className="text-soft">
              Everything arrives where you want it, and nowhere else. Render a take to prove it.
            </p>
          ) : (
            <ul ref={list}>
              {shown.map((cause) => (
                <FindingCard
                  key={cause.finding.id}
                  cause={cause}
                  open={openId === cause.finding.id}
                  withoutCards={cause.finding === here}
                  onGo={goToFinding}
                  onOpen={openCause}
                  onApply={applyRemedy}
                />
              ))}
            </ul>
          )}
          {shown.length < causes.length && (
            <Button weight="quiet" onClick={() => setLong(true)}>
              {causes.length - shown.length} more
            </Button>
          )}
          <MeantList meant={known.meant} onEdit={actions.edit} />
        </section>
        <HeardSection />
      </SidePanel>
      <ReachDialogs dialog={dialog} onClose={() => setDialog(null)} />
    </div>
  );
}

/** What the board shows of a setup: what arrives, and the state of each cell. */
function boardOf(setup: Setup, scene: string, findings: Finding[]) {
  const reach = reachIn(setup, scene);
  const byCell = findingsByCell(findings);
  const intent = intentOf(setup);
  const cellAt = (source: string, destination: string) =>
    cellState(reach, intent, byCell.get(`${source} ${destination}`) ?? [], source, destination);
  const shown = new Set(
    [...byCell.values()].flatMap(([{ source, destination }]) =>
      source === null || destination === null ? [] : [markIn(cellAt(source, destination))],
    ),
  );
  return { reach, cellAt, marks: MARKS.filter((one) => shown.has(one)) };
}

function reachIn(setup: Setup, scene: string): Reach {
  return scene ? reachOf(setup, { scene }) : knownReach(setup);
}

/** The sources that no send tells apart, what microphones hear through the air left out. */
function fusedIn(setup: Setup, scene: string) {
  return fusedGroups(setup, reachIn(withoutAir(setup), scene));
}

/** Says how many causes there are. */
function causesText(count: number): string {
  return count === 1 ? '1 cause' : `${count} causes`;
}

/** The marks that are on the board now, and the keys. */
function Legend({ marks }: { marks: Mark[] }) {
  return (
    <div className="flex flex-wrap justify-between gap-x-6 gap-y-1 pt-1 text-xs text-soft">
      <p className="flex flex-wrap gap-x-4 gap-y-1">
        {marks.map((mark) => (
          <span key={mark}>
            <strong className={MARK_LOOKS[mark].className}>
              <Term word={mark} />
            </strong>{' '}
            {MARK_LOOKS[mark].words}
          </span>
        ))}
      </p>
      <KeyLegend keys={KEYS} />
    </div>
  );
}
