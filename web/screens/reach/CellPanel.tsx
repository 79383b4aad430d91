import { clsx } from 'clsx';
import { Slider } from 'radix-ui';
import { useState } from 'react';
import { markOf } from '../../../core/findings/codes.ts';
import { ECHO_FROM_MS } from '../../../core/findings/limits.ts';
import type { Destination } from '../../../core/reach/destinations.ts';
import { channelWords } from '../../../core/reach/graph.ts';
import { groupsAfter, linkedWith } from '../../../core/reach/linkedCells.ts';
import type { Reach } from '../../../core/reach/reach.ts';
import { isPlaceFor, placesOn, standsOn } from '../../../core/setup/channels.ts';
import type { Edit } from '../../../core/setup/edits.ts';
import type { Setup, Source } from '../../../core/setup/schema.ts';
import { listed } from '../../../core/words/figures.ts';
import type { Media } from '../../api/types.ts';
import { formatDb } from '../../format.ts';
import { Button, DbField, fieldClass } from '../../parts/controls.tsx';
import { RouteCardView } from '../../parts/RouteCardView.tsx';
import { Term } from '../../parts/Term.tsx';
import { type CellState, MARK_LOOKS } from './cells.ts';

interface CellPanelProps {
  source: Source;
  destination: Destination;
  cell: CellState;
  reach: Reach;
  media: Media | undefined;
  onSet: (gainDb: number) => void;
  onToggle: () => void;
  /** The names of the sources that no pickup tells apart from this one. */
  fusedWith: string | null;
  onSeparate: () => void;
  setup: Setup;
  onEdit: (edit: Edit) => void;
}

/** The cell that is chosen: wanted, arriving, its level to change, and its route card. */
export function CellPanel({
  source,
  destination,
  cell,
  reach,
  media,
  onSet,
  onToggle,
  fusedWith,
  onSeparate,
  setup,
  onEdit,
}: CellPanelProps) {
  const arrival = reach.at(source.id, destination.id);
  const isOpen = cell.gainDb !== null;
  const lufs = media?.integratedLufs;
  return (
    <section aria-label="The chosen cell" className="space-y-2 border-b border-rule pb-3">
      <div className="flex items-baseline justify-between gap-2">
        <h2 className="text-[15px] leading-tight">
          <strong>{source.name}</strong> <span className="text-soft">to</span>{' '}
          <strong>{destination.name}</strong>
        </h2>
        <Button onClick={onToggle}>{isOpen ? 'Close' : 'Open'}</Button>
      </div>
      <p className="text-sm text-soft">
        {cell.wantedDb === null ? 'You do not want it here' : `You want it at ${formatDb(cell.wantedDb)} dB`};{' '}
        {cell.gainDb === null ? 'nothing arrives' : `arrives at ${formatDb(cell.gainDb)} dB`}
        {cell.gainDb !== null &&
          lufs != null &&
          `, about ${(lufs + cell.gainDb).toFixed(1).replace('-', '−')} LUFS`}
        .
      </p>
      {cell.findings.map(({ id, code, message }) => {
        const mark = markOf(code);
        return (
          <p key={id} className={clsx('text-sm font-semibold', mark && MARK_LOOKS[mark].className)}>
            {message}
          </p>
        );
      })}
      {cell.gainDb !== null && (
        <LevelSlider gainDb={cell.gainDb} label={`${source.name} at ${destination.name}`} onSet={onSet} />
      )}
      <StandsOn setup={setup} source={source} destination={destination} reach={reach} onEdit={onEdit} />
      {arrival?.doubling && (
        <p className="text-sm text-reed">
          {arrival.paths.length} copies arrive: {formatDb(arrival.doubling.gainChangeDb)} dB
          {arrival.doubling.apartMs >= ECHO_FROM_MS
            ? `, the second ${arrival.doubling.apartMs.toFixed(0)} ms later, as an echo`
            : arrival.doubling.firstNotchHz !== null &&
              `, and the first notch is at ${arrival.doubling.firstNotchHz.toFixed(0)} Hz`}
          .
        </p>
      )}
      {fusedWith && (
        <p className="flex items-start justify-between gap-2 text-sm">
          <span>
            <strong className="text-heather">
              <Term word="fused" />
            </strong>{' '}
            with {fusedWith}: a level that you set here moves them together.
          </span>
          <Button onClick={onSeparate}>Separate …</Button>
        </p>
      )}
      <MovesWith setup={setup} destination={destination} reach={reach} onEdit={onEdit} />
      {arrival?.paths.map((card, index) => (
        <RouteCardView key={index} card={card} />
      ))}
    </section>
  );
}

/** Which destinations the levels of one move with. */
function MovesWith({
  setup,
  destination,
  reach,
  onEdit,
}: {
  setup: Setup;
  destination: Destination;
  reach: Reach;
  onEdit: (edit: Edit) => void;
}) {
  const others = reach.destinations.filter(({ id }) => id !== destination.id);
  const together = linkedWith(setup, destination.id);
  const names = together.map((id) => others.find((one) => one.id === id)?.name ?? id);
  return (
    <p className="text-sm text-soft">
      Levels of {destination.name} move{' '}
      <select
        aria-label={`What the levels of ${destination.name} move with`}
        className={`${fieldClass} py-0`}
        value={together[0] ?? ''}
        onChange={({ target }) =>
          onEdit({
            edit: 'setLinkedFaders',
            groups: groupsAfter(setup, destination.id, target.value || null),
          })
        }
      >
        <option value="">by themselves</option>
        {others.map(({ id, name }) => (
          <option key={id} value={id}>
            with {name}
          </option>
        ))}
      </select>
      {names.length > 1 && ` and ${listed(names.slice(1))}`}
    </p>
  );
}

/** On a multichannel track: the channels that the source stands on, to choose. */
function StandsOn({
  setup,
  source,
  destination: { track },
  reach,
  onEdit,
}: Pick<CellPanelProps, 'setup' | 'source' | 'destination' | 'reach' | 'onEdit'>) {
  if (track?.layout !== 'multichannel') return null;
  const sends = setup.sends.filter(
    (send) => send.to === track.id && reach.sourcesAt(send.pickup).includes(source.id),
  );
  return sends.map((send) => (
    <label key={send.pickup} className="flex items-center gap-2 text-sm">
      Stands on
      <select
        className={fieldClass}
        aria-label={`Channels of ${source.name} on ${track.name}`}
        value={standsOn(track, send)?.join()}
        onChange={(event) =>
          onEdit({ ...send, edit: 'setSend', channels: event.target.value.split(',').map(Number) })
        }
      >
        {placesOn(track)
          .filter((channels) => isPlaceFor(setup, track, { ...send, channels }))
          .map((place) => (
            <option key={place.join()} value={place.join()}>
              {channelWords(place)}
            </option>
          ))}
      </select>
      of “{track.name}”
    </label>
  ));
}

function LevelSlider({
  gainDb,
  label,
  onSet,
}: {
  gainDb: number;
  label: string;
  onSet: (gainDb: number) => void;
}) {
  const [moving, setMoving] = useState(gainDb);
  const [arrived, setArrived] = useState(gainDb);
  if (arrived !== gainDb) {
    setArrived(gainDb);
    setMoving(gainDb);
  }
  return (
    <div className="flex items-center gap-3">
      <Slider.Root
        className="relative flex h-6 flex-1 touch-none items-center"
        min={-60}
        max={12}
        step={0.5}
        value={[Math.max(-60, Math.min(12, moving))]}
        onValueChange={([value]) => setMoving(value)}
        onValueCommit={([value]) => onSet(value)}
      >
        <Slider.Track className="relative h-1.5 flex-1 border border-rule bg-sunk">
          <Slider.Range className="absolute h-full bg-water" />
        </Slider.Track>
        <Slider.Thumb
          aria-label={`Level of ${label}`}
          className="block h-5 w-2.5 rounded-sm border border-ink bg-sheet"
        />
      </Slider.Root>
      <DbField value={moving} label={`Figure for ${label}`} onChange={onSet} />
    </div>
  );
}
