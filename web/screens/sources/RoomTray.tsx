import { Radar } from 'lucide-react';
import { useState } from 'react';
import { differencesOf, placed, putRight, type Room } from '../../../core/room/room.ts';
import { Button } from '../../parts/controls.tsx';
import { useSetup } from '../../setupContext.tsx';
import { Choice } from '../wiring/parts.tsx';
import { RoomSheet } from './RoomSheet.tsx';

/** What sounds in the room and is not as the setup says: new apps to place, and outputs that were changed. */
export function RoomTray({ room, onChange }: { room: Room; onChange: (room: Room) => void }) {
  const { setup, actions } = useSetup();
  const [open, setOpen] = useState(false);
  const differences = differencesOf(setup, room);
  const fresh = differences.filter((one) => one.kind === 'new');
  const others = differences.filter((one) => one.kind !== 'new');
  return (
    <section aria-label="The room" className="border border-rule bg-sheet px-3 py-2">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <strong className="font-title">In the room</strong>
        <span className="text-sm text-soft">
          {differences.length === 0
            ? 'everything is as this setup says.'
            : `${differences.length} ${differences.length === 1 ? 'thing is' : 'things are'} not as this setup says.`}
        </span>
        <span className="flex-1" />
        {others.length > 0 && (
          <Button onClick={() => onChange(putRight(setup, room))}>Put the room right</Button>
        )}
        <Button onClick={() => setOpen(true)}>
          <Radar size={14} /> The room (simulated)
        </Button>
      </div>
      {fresh.length > 0 && (
        <ul className="mt-1 flex flex-wrap gap-2" aria-label="Unplaced apps">
          {fresh.map((one) => {
            const app = room.apps.find(({ id }) => one.id === `new:${id}`);
            return app ? (
              <li
                key={one.id}
                draggable
                onDragStart={(event) => event.dataTransfer.setData('application/x-room-app', app.id)}
                className="flex cursor-grab items-center gap-2 border border-dashed border-reed px-2 py-1 text-sm"
              >
                <strong>{app.name}</strong>
                <span className="text-soft">new; drag it onto its machine, or</span>
                <Choice
                  label={`Place ${app.name} on`}
                  value=""
                  none="place on …"
                  options={setup.machines}
                  onChange={(machine) => machine && actions.edit(placed(app, machine))}
                />
              </li>
            ) : null;
          })}
        </ul>
      )}
      {others.length > 0 && (
        <ul className="mt-1">
          {others.map((one) => (
            <li key={one.id} className="flex items-center justify-between gap-3 border-t border-rule py-1">
              <span className="text-sm">{one.text}</span>
              <Button onClick={() => actions.edit(one.edit)}>Take it over into the setup</Button>
            </li>
          ))}
        </ul>
      )}
      {open && <RoomSheet room={room} onChange={onChange} onClose={() => setOpen(false)} />}
    </section>
  );
}
