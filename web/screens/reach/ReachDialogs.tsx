import { useSetup } from '../../setupContext.tsx';
import { DestinationDialog } from './DestinationDialog.tsx';
import { RecorderDialog } from './RecorderDialog.tsx';
import { SeparateSheet } from './SeparateSheet.tsx';
import { TrackDialog } from './TrackDialog.tsx';

/** The dialog that is open over the board; `track`, `destination` and `separate` (a source) are ids in the setup. */
export type ReachDialog =
  | 'add-track'
  | 'add-destination'
  | 'recorder'
  | { track: string }
  | { destination: string }
  | { separate: string };

/** The dialogs of the board. One whose track, destination or source is gone from the setup is not shown. */
export function ReachDialogs({
  dialog,
  onClose,
}: {
  dialog: ReachDialog | null;
  /** How many findings the setup has now. */
  onClose: () => void;
}) {
  const { setup, actions } = useSetup();
  const named = dialog !== null && typeof dialog === 'object' ? dialog : {};
  const editedTrack = 'track' in named ? setup.tracks.find(({ id }) => id === named.track) : undefined;
  const editedDestination =
    'destination' in named ? setup.destinations.find(({ id }) => id === named.destination) : undefined;
  const separated = 'separate' in named ? setup.sources.find(({ id }) => id === named.separate) : undefined;
  return (
    <>
      {separated && <SeparateSheet source={separated} onClose={onClose} />}
      {dialog === 'add-destination' && <DestinationDialog destination={null} onClose={onClose} />}
      {editedDestination && <DestinationDialog destination={editedDestination} onClose={onClose} />}
      {dialog === 'recorder' && <RecorderDialog setup={setup} onEdit={actions.edit} onClose={onClose} />}
      {dialog === 'add-track' && (
        <TrackDialog
          title="Add a track"
          track={{ name: '', uses: ['file'], purpose: 'edit', codec: 'pcm-s24', layout: 'stereo' }}
          number={null}
          count={setup.tracks.length}
          onSave={(track) => actions.edit({ edit: 'addTrack', track })}
          onClose={onClose}
        />
      )}
      {editedTrack && (
        <TrackDialog
          key={editedTrack.id}
          title={`Track ${setup.tracks.indexOf(editedTrack) + 1}, “${editedTrack.name}”`}
          track={withoutId(editedTrack)}
          number={setup.tracks.indexOf(editedTrack) + 1}
          count={setup.tracks.length}
          onSave={(values) => actions.edit({ edit: 'updateTrack', id: editedTrack.id, values })}
          onMove={(to) => actions.edit({ edit: 'moveTrack', id: editedTrack.id, to })}
          onRemove={() => actions.edit({ edit: 'removeTrack', id: editedTrack.id })}
          onClose={onClose}
        />
      )}
    </>
  );
}

function withoutId<T extends { id: string }>({ id: _, ...rest }: T): Omit<T, 'id'> {
  return rest;
}
