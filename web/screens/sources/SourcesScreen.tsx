import { clsx } from 'clsx';
import { Plus } from 'lucide-react';
import { useMemo, useState } from 'react';
import { withoutAir } from '../../../core/reach/air.ts';
import { type FusedGroup, fusedGroups, fusedNames } from '../../../core/reach/fused.ts';
import { reachOf } from '../../../core/reach/reach.ts';
import { expectedSources, placed, type Room } from '../../../core/room/room.ts';
import { clearanceAfter, clearanceOf, safePresetOf } from '../../../core/setup/clearance.ts';
import { type Setup, SOURCE_KINDS, type Source } from '../../../core/setup/schema.ts';
import type { Machine } from '../../../core/setup/wiring.ts';
import { useRoom } from '../../api/room.ts';
import {
  Button,
  DbField,
  fieldClass,
  MoveButtons,
  NameField,
  RemoveButton,
  ScreenTitle,
} from '../../parts/controls.tsx';
import { useCourses } from '../../parts/useCourses.ts';
import { useSetup } from '../../setupContext.tsx';
import { ClearanceField } from './ClearanceField.tsx';
import { DropFiles } from './DropFiles.tsx';
import { PlaceField } from './PlaceField.tsx';
import { RecordingField } from './RecordingField.tsx';
import { RoomTray } from './RoomTray.tsx';

const TITLES = ['Name', 'Kind', 'Cleared for', 'Recording', 'Level', 'Own track', ''];
const WIRED_TITLES = ['Name', 'Kind', 'Plays into', 'Cleared for', 'Recording', 'Level', 'Own track', ''];

/** Sources: the roster of everything that makes sound, what it is cleared for, and the recording to rehearse with. */
export function SourcesScreen() {
  const { id, setup, actions } = useSetup();
  const { room, change } = useRoom(id);
  const expected = new Set(room ? expectedSources(setup, room) : []);
  const { courses } = useCourses(setup, true);
  const powers = useMemo(() => new Map(courses.map((one) => [one.source.id, one.powers])), [courses]);
  const fused = useMemo(() => fusedGroups(setup, reachOf(withoutAir(setup))), [setup]);
  const groups = setup.machines.length === 0 ? [{ machine: null, sources: setup.sources }] : byMachine(setup);
  const add = () =>
    actions.edit({
      edit: 'addSource',
      source: {
        name: `Source ${setup.sources.length + 1}`,
        kind: setup.sources.length === 0 ? 'microphone' : 'game',
        clearance: clearanceOf(safePresetOf(setup.sources.length === 0 ? 'microphone' : 'game')),
        levelDb: 0,
        media: null,
      },
    });
  return (
    <div className="space-y-3 px-5 py-3 narrow:px-3">
      <div className="flex flex-wrap items-end justify-between gap-x-4 gap-y-2">
        <ScreenTitle title="Who makes sound">
          What each sound is cleared for decides where it may go. Its recording is what the rehearsal plays.
        </ScreenTitle>
        <Button onClick={add} weight={setup.sources.length === 0 ? 'main' : 'plain'}>
          <Plus size={14} /> Add source
        </Button>
      </div>
      {room && setup.machines.length > 0 && <RoomTray room={room} onChange={change} />}
      <DropFiles />
      {setup.sources.length === 0 ? (
        <p className="py-10 text-soft">
          No sources yet. Add your microphone first, then the game, friends, music and alerts.
        </p>
      ) : (
        groups.map((group) => (
          <SourceGroup
            key={group.machine?.id ?? ''}
            {...group}
            isWired={setup.machines.length > 0}
            fused={fused}
            expected={expected}
            room={room}
            powers={powers}
          />
        ))
      )}
    </div>
  );
}

/** The sources of one machine, or those that are on none yet: the tray from which they are placed. */
function SourceGroup({
  machine,
  sources,
  isWired,
  fused,
  expected,
  room,
  powers,
}: {
  machine: Machine | null;
  sources: Source[];
  isWired: boolean;
  fused: FusedGroup[];
  expected: Set<string>;
  room: Room | undefined;
  powers: Map<string, Float64Array>;
}) {
  const { setup, actions } = useSetup();
  const [isOver, setIsOver] = useState(false);
  const place = (id: string) => {
    if (machine && setup.sources.find((one) => one.id === id)?.machine !== machine.id)
      actions.edit({ edit: 'updateSource', id, values: { machine: machine.id }, clear: ['into'] });
  };
  const title = machine?.name ?? 'Not placed yet';
  const titles = isWired ? WIRED_TITLES : TITLES;
  return (
    <section
      aria-label={isWired ? title : 'Sources'}
      className={clsx('pb-2', isOver && 'bg-sunk')}
      onDragOver={(event) => {
        if (!machine) return;
        event.preventDefault();
        setIsOver(true);
      }}
      onDragLeave={() => setIsOver(false)}
      onDrop={(event) => {
        setIsOver(false);
        const app = room?.apps.find(({ id }) => id === event.dataTransfer.getData('application/x-room-app'));
        if (app && machine) actions.edit(placed(app, machine.id));
        else place(event.dataTransfer.getData('text/plain'));
      }}
    >
      {isWired && (
        <h2 className={clsx('border-b-2 pb-0.5 font-title text-lg', machine ? 'border-ink' : 'border-reed')}>
          {title}{' '}
          <span className="font-sans text-sm text-soft">
            {machine
              ? sources.length === 0
                ? 'nothing sounds here; drag a source onto it'
                : ''
              : 'drag each onto its machine, or choose it in the row'}
          </span>
        </h2>
      )}
      {sources.length > 0 && (
        <table
          className="stacking w-full border-collapse text-left"
          aria-label={isWired ? `Sources, ${title}` : 'Sources'}
        >
          <thead>
            <tr className="border-b border-soft text-xs text-soft">
              {titles.map((one) => (
                <th key={one} scope="col" className="py-1 pr-3 font-normal">
                  {one || <span className="sr-only">Order and removal</span>}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {sources.map((source) => (
              <SourceRow
                key={source.id}
                source={source}
                index={setup.sources.indexOf(source)}
                count={setup.sources.length}
                isWired={isWired}
                fusedWith={fusedNames(setup, fused, source.id)}
                isExpected={expected.has(source.id)}
                powers={powers.get(source.id)}
              />
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

function SourceRow({
  source,
  index,
  count,
  isWired,
  fusedWith,
  isExpected,
  powers,
}: {
  source: Source;
  index: number;
  count: number;
  isWired: boolean;
  fusedWith: string | null;
  isExpected: boolean;
  powers: Float64Array | undefined;
}) {
  const { actions } = useSetup();
  const change = (values: Partial<Omit<Source, 'id'>>) =>
    actions.edit({ edit: 'updateSource', id: source.id, values });
  const move = (to: number) => actions.edit({ edit: 'moveSource', id: source.id, to });
  return (
    <tr
      className="border-b border-rule align-top"
      data-source={source.id}
      draggable={isWired}
      onDragStart={(event) => event.dataTransfer.setData('text/plain', source.id)}
    >
      <td className="py-1.5 pr-3">
        <NameField
          value={source.name}
          label="Name of the source"
          onChange={(name) => change({ name })}
          className="w-36 font-semibold"
        />
        {fusedWith && (
          <span className="block px-1 text-xs text-heather">
            <strong>fused</strong> with {fusedWith}
          </span>
        )}
        {isExpected && <span className="block px-1 text-xs text-soft">expected, not heard yet</span>}
      </td>
      <td className="py-1.5 pr-3" data-title="Kind">
        <select
          aria-label={`Kind of ${source.name}`}
          className={fieldClass}
          value={source.kind}
          onChange={(event) => {
            const kind = event.target.value as Source['kind'];
            change({ kind, clearance: clearanceAfter(source.clearance, source.kind, kind) });
          }}
        >
          {SOURCE_KINDS.map((kind) => (
            <option key={kind}>{kind}</option>
          ))}
        </select>
      </td>
      {isWired && (
        <td className="py-1.5 pr-3" data-title="Plays into">
          <PlaceField source={source} />
        </td>
      )}
      <td className="py-1.5 pr-3" data-title="Cleared for">
        <ClearanceField source={source} onChange={(clearance) => change({ clearance })} />
      </td>
      <td className="py-1.5 pr-3" data-title="Recording">
        <RecordingField
          source={source}
          narrow={isWired}
          powers={powers}
          onChange={(media) => change({ media })}
        />
      </td>
      <td className="py-1.5 pr-3" data-title="Level">
        <DbField
          value={source.levelDb}
          label={`Level of ${source.name}`}
          onChange={(levelDb) => change({ levelDb })}
        />
      </td>
      <td className="py-1.5 pr-3" data-title="Own track">
        {source.clearance.edit ? (
          <label className="flex items-center gap-1.5 pt-1 text-sm">
            <input
              type="checkbox"
              checked={source.ownTrack !== false}
              onChange={(event) => change({ ownTrack: event.target.checked })}
              aria-label={`${source.name} is to have a track of its own`}
            />
            {source.ownTrack === false ? 'no need' : 'wanted'}
          </label>
        ) : (
          <span className="block pt-1 text-sm text-soft">no</span>
        )}
      </td>
      <td className={clsx('py-1.5 whitespace-nowrap', isWired && '[&_button]:px-1')}>
        <MoveButtons name={source.name} index={index} count={count} onMove={move} />
        <RemoveButton
          label={`Remove ${source.name}`}
          onClick={() => actions.edit({ edit: 'removeSource', id: source.id })}
        />
      </td>
    </tr>
  );
}

/** The sources that are on no machine first, then each machine's. */
function byMachine(setup: Setup): { machine: Machine | null; sources: Source[] }[] {
  const unplaced = setup.sources.filter((source) => source.machine === undefined);
  return [
    ...(unplaced.length > 0 ? [{ machine: null, sources: unplaced }] : []),
    ...setup.machines.map((machine) => ({
      machine,
      sources: setup.sources.filter((source) => source.machine === machine.id),
    })),
  ];
}
