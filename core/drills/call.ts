import { deviceOf, sameApp } from '../reach/graph.ts';
import { clearanceOf } from '../setup/clearance.ts';
import type { SimpleEdit } from '../setup/edits.ts';
import { newId, pickupIdFor } from '../setup/ids.ts';
import type { Setup, Source } from '../setup/schema.ts';
import type { Drill } from './drill.ts';
import { struckBy } from './strike.ts';

/** A friend turns music on in the call: it comes the whole way that the call comes. */
export function musicInTheCall(setup: Setup): Drill[] {
  const friend = setup.sources.find((source) => source.kind === 'voice chat');
  if (!friend) return [];
  return [
    {
      id: 'call-music',
      kind: 'music in the call',
      label: `${friend.name} turns music on in the call`,
      strike: (now) => {
        const voice = now.sources.find(({ id }) => id === friend.id);
        return voice ? struckBy(now, playedBy(now, voice)) : null;
      },
    },
  ];
}

/** The music is part of the friend’s app, so whatever takes the app takes it; mixes that take the voice itself take it too. */
function playedBy(setup: Setup, voice: Source): SimpleEdit[] {
  const id = newId(setup, 'music in the call');
  const app = voice.app ?? `${voice.name}’s call`;
  const { machine, into, levelDb } = voice;
  const inputs = setup.mixes.flatMap((mix) =>
    mix.inputs
      .filter(({ from }) => from === voice.id)
      .map(({ from: _, ...values }): SimpleEdit => ({ edit: 'setMixInput', mix: mix.id, from: id, values })),
  );
  return [
    ...sameApp(setup, voice).map(
      (one): SimpleEdit => ({ edit: 'updateSource', id: one.id, values: { app } }),
    ),
    {
      edit: 'addSource',
      id,
      source: {
        name: 'Music in the call',
        kind: 'music',
        clearance: clearanceOf('never'),
        ...(machine ? { machine } : {}),
        ...(into ? { into } : {}),
        app,
        levelDb,
        media: null,
        ownTrack: false,
      },
    },
    // A source that plays into no device is given a pickup of its own; the app is taken already.
    ...(into === undefined && (machine === undefined || machine === setup.recorder.machine)
      ? [{ edit: 'removePickup', id: pickupIdFor(id) } as SimpleEdit]
      : []),
    ...inputs,
  ];
}

/** The chat app takes as its microphone what it plays into, and plays into what it took. */
export function crossedChat(setup: Setup): Drill[] {
  const friends = setup.destinations.find((one) => one.kind === 'friends' && one.hears?.length);
  const voice = setup.sources.find((source) => source.kind === 'voice chat' && source.into);
  if (!friends || !voice) return [];
  return [
    {
      id: 'crossed-chat',
      kind: 'crossed chat',
      label: 'The chat app’s input and output are crossed',
      strike: (now) => {
        const [input] = now.destinations.find((one) => one.id === friends.id)?.hears ?? [];
        const one = now.sources.find((source) => source.id === voice.id);
        const output = one && deviceOf(now, one);
        if (!input || !output) return null;
        const plays = now.devices.find((device) => device.id === input)?.direction === 'out';
        const voices = now.sources
          .filter((source) => source.kind === 'voice chat' && deviceOf(now, source) === output)
          .map(
            (source): SimpleEdit =>
              plays
                ? { edit: 'updateSource', id: source.id, values: { into: input } }
                : { edit: 'updateSource', id: source.id, values: {}, clear: ['into'] },
          );
        return struckBy(now, [
          { edit: 'updateDestination', id: friends.id, values: { hears: [output] } },
          ...voices,
        ]);
      },
    },
  ];
}
