import { useState } from 'react';
import { type Room, type RoomApp, withNewApp } from '../../../core/room/room.ts';
import { DEFAULT_DEVICE } from '../../../core/setup/schema.ts';
import { Button, fieldClass } from '../../parts/controls.tsx';
import { Sheet } from '../../parts/Sheet.tsx';
import { useSetup } from '../../setupContext.tsx';
import { Choice, Tick } from '../wiring/parts.tsx';

/** The stand-in itself: default devices, apps with their outputs and volumes, and starting another app. */
export function RoomSheet({
  room,
  onChange,
  onClose,
}: {
  room: Room;
  onChange: (room: Room) => void;
  onClose: () => void;
}) {
  const { setup } = useSetup();
  const [name, setName] = useState('');
  const computers = setup.machines.filter((machine) => machine.kind === 'computer');
  const [machine, setMachine] = useState(computers[0]?.id ?? '');
  const outputs = (id: string) =>
    setup.devices.filter((device) => device.machine === id && device.direction === 'out');
  const set = (app: RoomApp, values: Partial<RoomApp>) =>
    onChange({ ...room, apps: room.apps.map((one) => (one === app ? { ...one, ...values } : one)) });
  return (
    <Sheet title="The room, as it is now (simulated)" onClose={onClose} live>
      <p className="mb-3 text-sm text-soft">
        A stand-in for your real machines: change something here as it would change there, and see what the
        setup makes of it.
      </p>
      {computers.map((one) => (
        <p key={one.id} className="flex items-center justify-between gap-2 py-0.5">
          Default output of {one.name}
          <Choice
            label={`Default output of ${one.name} in the room`}
            value={room.defaults[one.id] ?? ''}
            none="none"
            options={outputs(one.id)}
            onChange={(id) => id && onChange({ ...room, defaults: { ...room.defaults, [one.id]: id } })}
          />
        </p>
      ))}
      <ul className="my-3 border-t border-rule">
        {room.apps
          .filter((app) => computers.some((one) => one.id === app.machine))
          .map((app) => (
            <li key={app.id} className="flex items-center gap-2 border-b border-rule py-1">
              <span className="flex-1">{app.name}</span>
              <Choice
                label={`${app.name} plays into, in the room`}
                value={app.into}
                options={[{ id: DEFAULT_DEVICE, name: 'the default' }, ...outputs(app.machine)]}
                onChange={(into) => set(app, { into })}
              />
              <input
                type="number"
                min={1}
                max={100}
                aria-label={`Volume of ${app.name} in the room`}
                className={`${fieldClass} w-16 text-right`}
                value={app.volumePercent}
                onChange={(event) =>
                  set(app, {
                    volumePercent: Math.max(1, Math.min(100, Math.round(Number(event.target.value)) || 1)),
                  })
                }
              />
              %
              <Tick
                checked={app.sounding}
                label={`${app.name} has sounded`}
                onChange={(sounding) => set(app, { sounding })}
              >
                heard
              </Tick>
            </li>
          ))}
      </ul>
      <form
        className="flex items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (!name.trim() || !machine) return;
          onChange(withNewApp(setup, room, name.trim(), machine));
          setName('');
        }}
      >
        <input
          aria-label="Name of another app"
          placeholder="another app"
          className={`${fieldClass} flex-1`}
          value={name}
          maxLength={80}
          onChange={(event) => setName(event.target.value)}
        />
        <Choice label="Machine of the other app" value={machine} options={computers} onChange={setMachine} />
        <Button type="submit" disabled={!name.trim()}>
          Start it
        </Button>
      </form>
    </Sheet>
  );
}
