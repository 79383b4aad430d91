import { clsx } from 'clsx';
import { costOf, READY_ROOMS, type ReadyRoom } from '../../../core/plan/readyRooms.ts';
import type { RoomSource } from '../../../core/plan/room.ts';

/** The starting points: what each is good for; of the chosen one, what it costs and what it cannot do. */
export function ReadyRooms({
  sources,
  tracks,
  chosen,
  onChoose,
}: {
  sources: RoomSource[];
  tracks: number;
  /** The id of the starting point that was chosen, if any. */
  chosen: string | null;
  onChoose: (room: ReadyRoom) => void;
}) {
  const room = READY_ROOMS.find(({ id }) => id === chosen);
  return (
    <fieldset>
      <legend className="sr-only">Ready rooms</legend>
      <div className="grid grid-cols-2 border-l border-rule narrow:grid-cols-1 xl:grid-cols-3">
        {READY_ROOMS.map((one) => (
          <label
            key={one.id}
            className={clsx(
              'flex cursor-pointer gap-2 border-r border-b border-rule px-3 py-2',
              'has-focus-visible:outline-2 has-focus-visible:outline-reed',
              one.id === chosen ? 'bg-water-pale/50' : 'hover:bg-sunk',
            )}
          >
            <input
              type="radio"
              name="ready-room"
              className="mt-1 self-start"
              checked={one.id === chosen}
              onChange={() => onChoose(one)}
            />
            <span>
              <span className="block leading-snug font-semibold">{one.name}</span>
              <span className="block text-[13px] leading-snug text-soft">{one.goodFor}</span>
            </span>
          </label>
        ))}
      </div>
      {room && (
        <dl
          aria-label={`About “${room.name}”`}
          className="grid grid-cols-[auto_1fr] gap-x-3 border-b border-rule py-2 text-sm"
        >
          <dt className="text-soft">It costs</dt>
          <dd>{costOf(room, sources, tracks)}.</dd>
          <dt className="text-soft">It cannot</dt>
          <dd>{room.cannot}</dd>
        </dl>
      )}
    </fieldset>
  );
}
