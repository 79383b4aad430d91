import { type Edit, nameOf } from './edits.ts';
import type { Setup } from './schema.ts';
import { isWiringEdit, type WiringEdit } from './wiringEdits.ts';

/** Says in a few words what an edit does, for the undo button and the history. */
export function describeEdit(edit: Edit, setup: Setup): string {
  const name = (id: string) => nameOf(setup, id);
  if (isWiringEdit(edit)) return describeWiringEdit(edit, name);
  switch (edit.edit) {
    case 'batch':
      return edit.label;
    case 'renameSetup':
      return `rename the setup to ${edit.name}`;
    case 'setRecorder':
      return 'change the recorder';
    case 'addSource':
      return `add ${edit.source.name}`;
    case 'addTrack':
      return `add the track ${edit.track.name}`;
    case 'addDestination':
      return `add ${edit.destination.name}`;
    case 'updateSource':
    case 'updateTrack':
    case 'updateDestination':
      return `change ${name(edit.id)}`;
    case 'removeSource':
    case 'removeTrack':
    case 'removeDestination':
      return `remove ${name(edit.id)}`;
    case 'setLinkedFaders':
      return 'change which levels move together';
    case 'setAim':
      return `change what balancing aims for at ${name(edit.destination)}`;
    case 'acceptFinding':
      return edit.facts === null ? 'count a finding again' : 'say that a finding is meant';
    case 'tickStep':
      return edit.text === null ? 'take a tick back' : 'tick a step of the set-up sheet';
    case 'moveSource':
    case 'moveTrack':
      return `move ${name(edit.id)}`;
    case 'setAir':
      return `say whether ${name(edit.source)} hears ${name(edit.destination)} through the air`;
    case 'setSend':
      return `${edit.gainDb === null ? 'close' : 'set'} ${name(edit.pickup)} to ${name(edit.to)}`;
    case 'setWish':
      return `${edit.gainDb === null ? 'no longer want' : 'want'} ${name(edit.source)} at ${name(edit.destination)}`;
  }
}

function describeWiringEdit(edit: WiringEdit, name: (id: string) => string): string {
  if (edit.edit === 'setMixInput') {
    if (edit.values === null) return `take ${name(edit.from)} out of ${name(edit.mix)}`;
    if (edit.values.muted) return `mute ${name(edit.from)} in ${name(edit.mix)}`;
    return `set ${name(edit.from)} in ${name(edit.mix)}`;
  }
  const [, verb, noun] = /^(add|update|remove)(.*)$/.exec(edit.edit) ?? [];
  if (verb === 'add') {
    const thing = Object.values(edit).find((value) => typeof value === 'object') as {
      name?: string;
      takes?: string;
    };
    return `add the ${noun.toLowerCase()} ${thing.name ?? name(thing.takes ?? '')}`;
  }
  return `${verb === 'update' ? 'change' : 'remove'} ${name((edit as { id: string }).id)}`;
}
