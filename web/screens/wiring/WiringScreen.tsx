import { Plus } from 'lucide-react';
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import { withoutAir } from '../../../core/reach/air.ts';
import { neighboursOf } from '../../../core/reach/neighbours.ts';
import { lossesOf } from '../../../core/reach/noticed.ts';
import { type Reach, reachOf } from '../../../core/reach/reach.ts';
import { listed } from '../../../core/words/figures.ts';
import { Blank, Button, ScreenTitle } from '../../parts/controls.tsx';
import { useSetup } from '../../setupContext.tsx';
import { AddMachine } from './AddMachine.tsx';
import { HearsTable } from './HearsTable.tsx';
import { LinkTable } from './LinkTable.tsx';
import { MachineSection } from './MachineSection.tsx';
import { PickupTable } from './PickupTable.tsx';
import { SceneList } from './SceneList.tsx';
import { ViewTools } from './ViewTools.tsx';
import { ViewingContext } from './viewing.tsx';

/** Wiring: each machine as a stop with arrivals and departures, the links between them, and what the recorder takes. */
export function WiringScreen() {
  const { id, setup, path } = useSetup();
  const [adding, setAdding] = useState(false);
  const view = useMemo(() => {
    const reach = reachOf(withoutAir(setup));
    return { reach, neighbours: neighboursOf(reach), losses: lossesOf(reach, setup.sources) };
  }, [setup]);
  const [text, setText] = useState('');
  const [chosen, setFollowed] = useState<string | null>(null);
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set());
  const followed = setup.sources.some((one) => one.id === chosen) ? chosen : null;
  const find = text.trim().toLowerCase();
  const fold = (machine: string, isFolded: boolean) =>
    setFolded((before) => {
      const next = new Set(before);
      if (isFolded) next.add(machine);
      else next.delete(machine);
      return next;
    });
  if (setup.machines.length === 0) {
    return (
      <Blank title="One room, and nothing wired yet">
        <p>
          Every source has a pickup of its own in the recorder, and that is all. If your sound goes through
          default devices, virtual devices, a desk or a second machine, say so here, and the board will follow
          it all the way.
        </p>
        <Button weight="main" onClick={() => setAdding(true)}>
          <Plus size={14} /> Add the first machine
        </Button>
        {adding && <AddMachine onClose={() => setAdding(false)} />}
      </Blank>
    );
  }
  const jumps: [string, string][] = [
    ...setup.machines.map((machine): [string, string] => [machine.id, machine.name]),
    ['links', 'Links'],
    ['pickups', 'Pickups'],
    ['hears', 'Who hears what'],
    ['scenes', 'Scenes'],
  ];
  return (
    <div className="h-full grid-cols-[9rem_minmax(0,1fr)] wide:grid narrow:overflow-auto">
      <nav
        aria-label="On this page"
        className="overflow-auto border-rule bg-sheet px-3 py-4 text-sm wide:border-r narrow:border-b narrow:py-2"
      >
        <ViewTools
          find={text}
          followed={followed}
          areFolded={setup.machines.every((machine) => folded.has(machine.id))}
          onFind={setText}
          onFollow={setFollowed}
          onFoldAll={(isFolded) =>
            setFolded(new Set(isFolded ? setup.machines.map((machine) => machine.id) : []))
          }
        />
        <ul className="space-y-0.5 narrow:flex narrow:flex-wrap narrow:gap-x-2">
          {jumps.map(([place, name], index) => (
            <li key={place} className={index === setup.machines.length ? 'wide:mt-3' : undefined}>
              <a href={`#wiring-${place}`} className="block truncate rounded-sm px-1.5 py-0.5 hover:bg-sunk">
                {name}
              </a>
            </li>
          ))}
        </ul>
        <Button className="mt-3 wide:w-full" onClick={() => setAdding(true)}>
          <Plus size={14} /> Machine
        </Button>
        <Link to={`${path}/wiring/steps`} className="mt-4 block px-1.5 text-water underline">
          Set-up sheet
        </Link>
        <Link to={`/plan?of=${id}`} className="mt-2 block px-1.5 text-water underline">
          The questions again
        </Link>
      </nav>
      <div className="space-y-8 px-6 py-4 wide:overflow-auto narrow:px-3">
        <ScreenTitle title="How the sound gets there">
          Every device lists what arrives at it and where that goes on to. What goes nowhere is heard by
          nobody.
        </ScreenTitle>
        {followed !== null && <Way source={followed} reach={view.reach} />}
        <ViewingContext value={{ find, followed, folded, fold, reach: view.reach, losses: view.losses }}>
          {setup.machines.map((machine) => (
            <MachineSection key={machine.id} machine={machine} {...view} />
          ))}
          <LinkTable />
          <PickupTable reach={view.reach} />
          <HearsTable />
          <SceneList />
        </ViewingContext>
      </div>
      {adding && <AddMachine onClose={() => setAdding(false)} />}
    </div>
  );
}

/** Where the followed source goes, in one sentence. */
function Way({ source, reach }: { source: string; reach: Reach }) {
  const { setup } = useSetup();
  const name = setup.sources.find(({ id }) => id === source)?.name ?? source;
  const heard = reach.destinations.filter(({ id }) => reach.at(source, id)).map((one) => one.name);
  return (
    <p role="status" className="border-l-4 border-water bg-sheet px-3 py-1.5 text-sm">
      <strong>{name}</strong>{' '}
      {heard.length === 0 ? 'arrives nowhere.' : `arrives at ${listed(heard)}. Its way is marked below.`}
    </p>
  );
}
