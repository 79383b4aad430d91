import { useState } from 'react';
import { inOneRoom, renamedFor } from '../../../core/setup/airEdits.ts';
import type { SimpleEdit } from '../../../core/setup/edits.ts';
import { newId } from '../../../core/setup/ids.ts';
import type { ListedDestination } from '../../../core/setup/schema.ts';
import { fieldClass } from '../../parts/controls.tsx';
import { DialogFoot, NameOf } from '../../parts/dialogParts.tsx';
import { Sheet } from '../../parts/Sheet.tsx';
import { useSetup } from '../../setupContext.tsx';

/** Who may be added, and what to call them at first. */
const KINDS: { kind: ListedDestination['kind']; words: string; name: string }[] = [
  { kind: 'headphones', words: 'headphones', name: 'Headphones' },
  { kind: 'loudspeakers', words: 'loudspeakers', name: 'Loudspeakers' },
  { kind: 'friends', words: 'a group of friends in voice chat', name: 'Friends' },
  {
    kind: 'other',
    words: 'another output that nobody hears here: a web studio, a capture line …',
    name: 'Other output',
  },
  { kind: 'live', words: 'the live broadcast', name: 'Live' },
  { kind: 'vod', words: 'the VOD that stays', name: 'VOD' },
];

/** A destination: add one, change the name, or remove one. Nothing is changed before it is saved. */
export function DestinationDialog({
  destination,
  onClose,
}: {
  destination: ListedDestination | null;
  onClose: () => void;
}) {
  const { setup, actions } = useSetup();
  const [kind, setKind] = useState<ListedDestination['kind']>(destination?.kind ?? 'headphones');
  const [name, setName] = useState(destination?.name ?? newName(setup.destinations, 'headphones'));
  const [isInRoom, setInRoom] = useState(true);
  const hasOne = (one: ListedDestination['kind']) => setup.destinations.some((other) => other.kind === one);
  const offered = KINDS.filter((one) => (one.kind !== 'live' && one.kind !== 'vod') || !hasOne(one.kind));
  const isWorn = destination?.kind === 'headphones' || destination?.kind === 'loudspeakers';
  const choices = destination
    ? KINDS.filter((one) => one.kind === 'headphones' || one.kind === 'loudspeakers')
    : offered;
  const asksForRoom =
    kind === 'loudspeakers' &&
    destination?.kind !== 'loudspeakers' &&
    setup.sources.some((source) => source.kind === 'microphone');
  const save = () => {
    const text = name.trim();
    if (text === '') return;
    const id = destination?.id ?? newId(setup, text);
    const edits: SimpleEdit[] = [
      destination
        ? { edit: 'updateDestination', id, values: { name: text, kind } }
        : { edit: 'addDestination', id, destination: { name: text, kind } },
      ...(asksForRoom && isInRoom ? inOneRoom(setup, id) : []),
    ];
    const label = `${destination ? 'change' : 'add'} ${text}`;
    actions.edit(edits.length === 1 ? edits[0] : { edit: 'batch', label, edits });
    onClose();
  };
  return (
    <Sheet title={destination ? `Destination: ${destination.name}` : 'Add a destination'} onClose={onClose}>
      <form
        className="space-y-4"
        onSubmit={(event) => {
          event.preventDefault();
          save();
        }}
      >
        {(!destination || isWorn) && (
          <label className="block">
            <span className="text-sm text-soft">Who or what</span>
            <select
              className={`${fieldClass} block w-full`}
              value={kind}
              onChange={(event) => {
                const next = event.target.value as ListedDestination['kind'];
                setKind(next);
                if (!destination) setName(newName(setup.destinations, next));
                else if (next === 'headphones' || next === 'loudspeakers') setName(renamedFor(next, name));
              }}
            >
              {choices.map((one) => (
                <option key={one.kind} value={one.kind}>
                  {one.words}
                </option>
              ))}
            </select>
          </label>
        )}
        <NameOf value={name} onChange={setName} />
        {asksForRoom && (
          <label className="flex items-baseline gap-2 text-sm">
            <input type="checkbox" checked={isInRoom} onChange={(event) => setInRoom(event.target.checked)} />
            They stand in the room of the microphone, which hears them about 30 dB quieter
          </label>
        )}
        {!destination && (
          <p className="text-sm text-soft">
            Nothing is sent there yet: open the cells of its column
            {setup.machines.length > 0 && ', or say on Wiring which devices are heard there'}.
          </p>
        )}
        <DialogFoot
          submit={destination ? 'Save' : 'Add'}
          disabled={name.trim() === ''}
          onClose={onClose}
          onRemove={
            destination ? () => actions.edit({ edit: 'removeDestination', id: destination.id }) : undefined
          }
        />
      </form>
    </Sheet>
  );
}

/** A name that is not taken: "Headphones", "Headphones 2" … */
function newName(taken: ListedDestination[], kind: ListedDestination['kind']): string {
  const stem = KINDS.find((one) => one.kind === kind)?.name ?? '';
  const names = new Set(taken.map(({ name }) => name));
  for (let number = 1; ; number++) {
    const name = number === 1 ? stem : `${stem} ${number}`;
    if (!names.has(name)) return name;
  }
}
