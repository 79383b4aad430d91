import { deviceOf } from '../reach/graph.ts';
import type { SimpleEdit } from '../setup/edits.ts';
import { isPlugged, type Setup } from '../setup/schema.ts';

/** Something that is done wrong in a room: what, in a few words, and the edits that do it. */
export interface Fault {
  name: string;
  edits: SimpleEdit[];
}

/** Everything of its kinds that can be done wrong in a room, each as one act of somebody at its controls. */
export function faultsOf(setup: Setup): Fault[] {
  return [
    ...sends(setup),
    ...mixes(setup),
    ...apps(setup),
    ...pickups(setup),
    ...playingBack(setup),
    ...tracks(setup),
    ...cables(setup),
    ...hearing(setup),
    ...volumes(setup),
    ...clocks(setup),
    ...pairs(setup),
  ];
}

/** Names what is done wrong. */
export function fault(name: string, ...edits: SimpleEdit[]): Fault {
  return { name, edits };
}

function sends(setup: Setup): Fault[] {
  const hasSend = (pickup: string, to: string) =>
    setup.sends.some((send) => send.pickup === pickup && send.to === to);
  return [
    ...setup.sends.flatMap(({ pickup, to, gainDb }) => [
      fault(`close ${pickup} on ${to}`, { edit: 'setSend', pickup, to, gainDb: null }),
      fault(`${pickup} on ${to} 20 dB down`, { edit: 'setSend', pickup, to, gainDb: gainDb - 20 }),
      fault(`${pickup} on ${to} 12 dB up`, { edit: 'setSend', pickup, to, gainDb: gainDb + 12 }),
    ]),
    ...setup.pickups.flatMap(({ id }) =>
      setup.tracks
        .filter((track) => !hasSend(id, track.id))
        .map((track) =>
          fault(`open ${id} on ${track.id}`, { edit: 'setSend', pickup: id, to: track.id, gainDb: 0 }),
        ),
    ),
  ];
}

/** A pickup takes too few of the channels of its device. */
function pairs(setup: Setup): Fault[] {
  return setup.pickups
    .filter(({ pairs = 1 }) => pairs > 1)
    .flatMap(({ id, pairs = 1 }) => [
      fault(`${id} takes one pair fewer`, { edit: 'updatePickup', id, values: { pairs: pairs - 1 } }),
      fault(`${id} takes one pair alone`, { edit: 'updatePickup', id, values: {}, clear: ['pairs'] }),
    ]);
}

/** An input is no longer driven together with the device that leads its clock. */
function clocks(setup: Setup): Fault[] {
  return setup.devices
    .filter(({ follows }) => follows !== undefined)
    .map(({ id }) =>
      fault(`${id} on its own clock`, { edit: 'updateDevice', id, clear: ['follows'], values: {} }),
    );
}

/** Somebody turns a device down on its machine. */
function volumes(setup: Setup): Fault[] {
  return setup.devices.map(({ id }) =>
    fault(`${id} turned down`, { edit: 'updateDevice', id, values: { volumeDb: -18 } }),
  );
}

/** What the recorder plays back: not at all, alone, on another output; and pickups that are muted. */
function playingBack(setup: Setup): Fault[] {
  const { machine, monitorDevice } = setup.recorder;
  const heard = setup.pickups.filter(({ monitoring }) => monitoring);
  const outputs = setup.devices.filter(
    (one) => one.direction === 'out' && one.machine === machine && one.id !== monitorDevice,
  );
  return [
    ...setup.pickups.map(({ id }) =>
      fault(`mute ${id}`, { edit: 'updatePickup', id, values: { muted: true } }),
    ),
    ...heard.map(({ id }) =>
      fault(`${id} not played back`, { edit: 'updatePickup', id, clear: ['monitoring'], values: {} }),
    ),
    ...heard
      .filter(({ monitoring }) => monitoring === 'heard and sent')
      .map(({ id }) =>
        fault(`${id} only played back`, { edit: 'updatePickup', id, values: { monitoring: 'heard' } }),
      ),
    ...(monitorDevice === undefined
      ? []
      : [
          ...outputs.map(({ id }) =>
            fault(`played back on ${id}`, { edit: 'setRecorder', values: { monitorDevice: id } }),
          ),
          ...setup.pickups
            .filter(({ monitoring }) => !monitoring)
            .map(({ id }) =>
              fault(`${id} played back too`, {
                edit: 'updatePickup',
                id,
                values: { monitoring: 'heard and sent' },
              }),
            ),
        ]),
  ];
}

function mixes(setup: Setup): Fault[] {
  return setup.mixes.flatMap((mix) => {
    const others = setup.devices.filter(
      ({ id, machine, direction }) =>
        machine === mix.machine && direction === 'out' && !mix.into.includes(id),
    );
    const worn = setup.destinations
      .filter(({ kind }) => kind === 'headphones')
      .flatMap(({ hears = [] }) => hears)
      .filter((device) => setup.devices.some(({ id, machine }) => id === device && machine === mix.machine));
    return [
      ...worn.slice(0, 1).map((device) =>
        fault(`listening in on ${mix.id}`, {
          edit: 'updateMix',
          id: mix.id,
          values: { listenedOn: device },
        }),
      ),
      ...mix.inputs.flatMap(({ from, gainDb, muted }) =>
        muted
          ? [
              fault(`open ${from} in ${mix.id}`, {
                edit: 'setMixInput',
                mix: mix.id,
                from,
                values: { muted: false },
              }),
            ]
          : [
              fault(`mute ${from} in ${mix.id}`, {
                edit: 'setMixInput',
                mix: mix.id,
                from,
                values: { muted: true },
              }),
              fault(`take ${from} out of ${mix.id}`, {
                edit: 'setMixInput',
                mix: mix.id,
                from,
                values: null,
              }),
              fault(`${from} in ${mix.id} 24 dB down`, {
                edit: 'setMixInput',
                mix: mix.id,
                from,
                values: { gainDb: gainDb - 24 },
              }),
            ],
      ),
      fault(`${mix.id} plays nowhere`, { edit: 'updateMix', id: mix.id, values: { into: [] } }),
      ...others.map(({ id }) =>
        fault(`${mix.id} plays into ${id}`, { edit: 'updateMix', id: mix.id, values: { into: [id] } }),
      ),
      ...others.map(({ id }) =>
        fault(`${mix.id} plays into ${id} too`, {
          edit: 'updateMix',
          id: mix.id,
          values: { into: [...mix.into, id] },
        }),
      ),
    ];
  });
}

function apps(setup: Setup): Fault[] {
  return setup.sources.flatMap((source) => {
    const { id, machine, into, levelDb } = source;
    const isApp = !isPlugged(source.kind) && into !== undefined;
    const others = setup.devices.filter(
      (device) =>
        device.machine === machine && device.direction === 'out' && device.id !== deviceOf(setup, source),
    );
    const hasDefault = setup.machines.some(
      (one) => one.id === machine && one.defaultOutput && one.defaultOutput !== into,
    );
    return [
      fault(`${id} 30 dB down`, { edit: 'updateSource', id, values: { levelDb: levelDb - 30 } }),
      ...(isApp
        ? [
            fault(`${id} at 20 %`, { edit: 'updateSource', id, values: { volumePercent: 20 } }),
            ...(hasDefault
              ? [fault(`${id} on the default`, { edit: 'updateSource', id, values: { into: 'default' } })]
              : []),
            fault(`${id} is stuck`, { edit: 'updateSource', id, values: { stuck: true } }),
            ...others.map((device) =>
              fault(`${id} given ${device.id}`, {
                edit: 'updateSource',
                id,
                values: { into: 'default', machineInto: device.id },
              }),
            ),
            ...others.map((device) =>
              fault(`${id} into ${device.id}`, { edit: 'updateSource', id, values: { into: device.id } }),
            ),
          ]
        : []),
    ];
  });
}

function pickups(setup: Setup): Fault[] {
  const isTaken = (id: string) => setup.pickups.some(({ takes }) => takes === id);
  const { machine } = setup.recorder;
  const doubled = setup.sources.filter(
    (source) =>
      source.machine === machine &&
      !isPlugged(source.kind) &&
      source.into !== undefined &&
      !isTaken(source.id),
  );
  return [
    ...setup.pickups.flatMap(({ id, gainDb, scenes }) => [
      fault(`${id} 25 dB down`, { edit: 'updatePickup', id, values: { gainDb: gainDb - 25 } }),
      ...(scenes ?? setup.scenes.map((scene) => scene.id)).slice(0, 2).map((scene) =>
        fault(`${id} silent in ${scene}`, {
          edit: 'updatePickup',
          id,
          values: {
            scenes: (scenes ?? setup.scenes.map((each) => each.id)).filter((each) => each !== scene),
          },
        }),
      ),
      fault(`no pickup ${id}`, { edit: 'removePickup', id }),
    ]),
    ...setup.pickups
      .filter(({ takes }) => setup.sources.some(({ id }) => id === takes))
      .map(({ id }) =>
        fault(`${id} asks for another name`, {
          edit: 'updatePickup',
          id,
          values: { asksFor: 'Towline beta' },
        }),
      ),
    ...doubled.map(({ id }) =>
      fault(
        `${id} picked up by itself too`,
        { edit: 'addPickup', id: `${id}.too`, pickup: { takes: id, gainDb: 0 } },
        ...setup.tracks
          .filter(({ uses }) => uses.includes('live'))
          .map(({ id: to }): SimpleEdit => ({ edit: 'setSend', pickup: `${id}.too`, to, gainDb: -10 })),
      ),
    ),
  ];
}

function tracks(setup: Setup): Fault[] {
  return setup.tracks.flatMap(({ id, uses }) =>
    (['live', 'vod'] as const)
      .filter((use) => uses.includes(use))
      .flatMap((use) => [
        fault(`${id} is no longer ${use}`, {
          edit: 'updateTrack',
          id,
          values: { uses: uses.filter((each) => each !== use) },
        }),
        ...setup.tracks
          .filter((other) => other.id !== id && !other.uses.includes(use))
          .slice(0, 3)
          .map((other) =>
            fault(`${other.id} is ${use} too`, {
              edit: 'updateTrack',
              id: other.id,
              values: { uses: [...other.uses, use] },
            }),
          ),
      ]),
  );
}

function cables(setup: Setup): Fault[] {
  return [
    ...setup.links
      .filter(({ kind }) => kind !== 'network')
      .map(({ id }) => fault(`no cable ${id}`, { edit: 'removeLink', id })),
    ...setup.links
      .filter(({ kind }) => kind === 'analogue')
      .map(({ id }) => fault(`${id} hums`, { edit: 'updateLink', id, values: { isolated: false } })),
  ];
}

function hearing(setup: Setup): Fault[] {
  return [...onLoudspeakers(setup), ...wrongDevices(setup)];
}

/** Somebody takes the headphones off, and listens on loudspeakers in the room of a microphone. */
function onLoudspeakers({ air = [], destinations }: Setup): Fault[] {
  return destinations
    .filter(({ id, kind }) => kind === 'headphones' && air.some(({ destination }) => destination === id))
    .map(({ id }) =>
      fault(`${id} are loudspeakers`, { edit: 'updateDestination', id, values: { kind: 'loudspeakers' } }),
    );
}

function wrongDevices(setup: Setup): Fault[] {
  const voices = setup.sources.filter(({ kind, into }) => kind === 'voice chat' && into !== undefined);
  return setup.destinations
    .filter(({ hears }) => hears?.length)
    .flatMap(({ id, kind, hears = [] }) => {
      const machine = setup.devices.find((device) => device.id === hears[0])?.machine;
      const others = setup.devices.filter(
        (device) =>
          device.machine === machine &&
          !hears.includes(device.id) &&
          (kind === 'friends' || device.direction === 'out'),
      );
      const output = voices[0] && deviceOf(setup, voices[0]);
      const input = setup.devices.find((device) => device.id === hears[0]);
      const isCrossable =
        kind === 'friends' && output && input?.direction === 'out' && input.machine === voices[0].machine;
      return [
        ...others.map((device) =>
          fault(`${id} hear ${device.id}`, { edit: 'updateDestination', id, values: { hears: [device.id] } }),
        ),
        ...(isCrossable
          ? [
              fault(
                'the chat is crossed',
                { edit: 'updateDestination', id, values: { hears: [output] } },
                ...voices.map(
                  (voice): SimpleEdit => ({ edit: 'updateSource', id: voice.id, values: { into: input.id } }),
                ),
              ),
            ]
          : []),
      ];
    });
}
