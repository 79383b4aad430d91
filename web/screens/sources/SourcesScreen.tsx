import { ArrowDown, ArrowUp, Plus, Trash2 } from 'lucide-react';
import { clearanceOf } from '../../../core/setup/clearance.ts';
import { SOURCE_KINDS, type Source } from '../../../core/setup/schema.ts';
import { Button, DbField, fieldClass, NameField, ScreenTitle } from '../../parts/controls.tsx';
import { useSetup } from '../../setupContext.tsx';
import { ClearanceField } from './ClearanceField.tsx';
import { RecordingField } from './RecordingField.tsx';

/** Sources: the roster of everything that makes sound, what it is cleared for, and the recording to rehearse with. */
export function SourcesScreen() {
  const { setup, actions } = useSetup();
  const add = () =>
    actions.edit({
      edit: 'addSource',
      source: {
        name: `Source ${setup.sources.length + 1}`,
        kind: setup.sources.length === 0 ? 'microphone' : 'game',
        clearance: clearanceOf('own'),
        levelDb: 0,
        media: null,
      },
    });
  return (
    <div className="space-y-3 px-5 py-3">
      <div className="flex items-end justify-between gap-4">
        <ScreenTitle title="Who makes sound">
          What each sound is cleared for decides where it may go. Its recording is what the rehearsal plays.
        </ScreenTitle>
        <Button onClick={add} weight={setup.sources.length === 0 ? 'main' : 'plain'}>
          <Plus size={14} /> Add source
        </Button>
      </div>
      {setup.sources.length === 0 ? (
        <p className="py-10 text-soft">
          No sources yet. Add your microphone first, then the game, friends, music and alerts.
        </p>
      ) : (
        <table className="w-full border-collapse text-left" aria-label="Sources">
          <thead>
            <tr className="border-b border-soft text-xs text-soft">
              {['Name', 'Kind', 'Cleared for', 'Recording', 'Level', 'Own track', ''].map((title) => (
                <th key={title} scope="col" className="py-1 pr-3 font-normal">
                  {title || <span className="sr-only">Order and removal</span>}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {setup.sources.map((source, index) => (
              <SourceRow key={source.id} source={source} index={index} count={setup.sources.length} />
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

function SourceRow({ source, index, count }: { source: Source; index: number; count: number }) {
  const { actions } = useSetup();
  const change = (values: Partial<Omit<Source, 'id'>>) =>
    actions.edit({ edit: 'updateSource', id: source.id, values });
  const move = (to: number) => actions.edit({ edit: 'moveSource', id: source.id, to });
  return (
    <tr className="border-b border-rule align-top" data-source={source.id}>
      <td className="py-1.5 pr-3">
        <NameField
          value={source.name}
          label="Name of the source"
          onChange={(name) => change({ name })}
          className="w-40 font-semibold"
        />
      </td>
      <td className="py-1.5 pr-3">
        <select
          aria-label={`Kind of ${source.name}`}
          className={fieldClass}
          value={source.kind}
          onChange={(event) => change({ kind: event.target.value as Source['kind'] })}
        >
          {SOURCE_KINDS.map((kind) => (
            <option key={kind}>{kind}</option>
          ))}
        </select>
      </td>
      <td className="py-1.5 pr-3">
        <ClearanceField source={source} onChange={(clearance) => change({ clearance })} />
      </td>
      <td className="py-1.5 pr-3">
        <RecordingField source={source} onChange={(media) => change({ media })} />
      </td>
      <td className="py-1.5 pr-3">
        <DbField
          value={source.levelDb}
          label={`Level of ${source.name}`}
          onChange={(levelDb) => change({ levelDb })}
        />
      </td>
      <td className="py-1.5 pr-3">
        {source.clearance.edit ? (
          <label className="flex items-center gap-1.5 pt-1 text-sm">
            <input
              type="checkbox"
              checked={source.ownTrack !== false}
              onChange={(event) => change({ ownTrack: event.target.checked })}
              aria-label={`${source.name} is to have a track of its own`}
            />
            {source.ownTrack === false ? 'not needed' : 'wanted'}
          </label>
        ) : (
          <span className="block pt-1 text-sm text-soft">not cleared</span>
        )}
      </td>
      <td className="py-1.5 whitespace-nowrap">
        <Button
          weight="quiet"
          disabled={index === 0}
          onClick={() => move(index - 1)}
          aria-label={`Move ${source.name} up`}
        >
          <ArrowUp size={15} />
        </Button>
        <Button
          weight="quiet"
          disabled={index === count - 1}
          onClick={() => move(index + 1)}
          aria-label={`Move ${source.name} down`}
        >
          <ArrowDown size={15} />
        </Button>
        <Button
          weight="quiet"
          onClick={() => actions.edit({ edit: 'removeSource', id: source.id })}
          aria-label={`Remove ${source.name}`}
          title="Remove (can be undone)"
        >
          <Trash2 size={15} />
        </Button>
      </td>
    </tr>
  );
}
