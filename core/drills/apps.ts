import { deviceOf, sameApp } from '../reach/graph.ts';
import { reachOf } from '../reach/reach.ts';
import { nameOf, type SimpleEdit } from '../setup/edits.ts';
import { newId } from '../setup/ids.ts';
import { DEFAULT_DEVICE, isPlugged, type Setup, type Source } from '../setup/schema.ts';
import type { Drill } from './drill.ts';
import { struckBy } from './strike.ts';

/** An app restarts and falls to the default device. */
export function restarts(setup: Setup): Drill[] {
  const apps = setup.sources.filter((source) => {
    const machine = setup.machines.find((one) => one.id === source.machine);
    const device = deviceOf(setup, source);
    return !isPlugged(source.kind) && machine?.defaultOutput && device && device !== machine.defaultOutput;
  });
  const firsts = apps.filter((source) => sameApp(setup, source)[0] === source);
  return firsts.map((source) => ({
    id: `restart.${source.id}`,
    kind: 'restart',
    label: `${source.app ?? source.name} restarts and falls to the default device`,
    strike: (now) => {
      const one = now.sources.find(({ id }) => id === source.id);
      const fallen = one ? sameApp(now, one) : [];
      return struckBy(
        now,
        fallen.map(
          (one): SimpleEdit => ({
            edit: 'updateSource',
            id: one.id,
            values: { into: DEFAULT_DEVICE },
          }),
        ),
      );
    },
  }));
}

/** An app goes on playing, and is silent. */
export function sticking(setup: Setup): Drill[] {
  const apps = setup.sources.filter(
    (source) => !isPlugged(source.kind) && !source.stuck && deviceOf(setup, source) !== undefined,
  );
  return apps
    .filter((source) => sameApp(setup, source)[0] === source)
    .map((source) => ({
      id: `stuck.${source.id}`,
      kind: 'stuck',
      label: `${source.app ?? source.name} gets stuck: it plays, and is silent`,
      strike: (now) => {
        const one = now.sources.find(({ id }) => id === source.id);
        const silent = one ? sameApp(now, one) : [];
        return struckBy(
          now,
          silent.map(({ id }): SimpleEdit => ({ edit: 'updateSource', id, values: { stuck: true } })),
        );
      },
    }));
}

/** A device is unplugged; what played into it falls to the default device. */
export function unpluggings(setup: Setup): Drill[] {
  const { sourcesAt } = reachOf(setup);
  return setup.devices
    .filter((device) => device.kind === 'physical' && sourcesAt(device.id).length > 0)
    .map((device) => ({
      id: `unplug.${device.id}`,
      kind: 'unplug',
      label: `${nameOf(setup, device.machine)}’s “${device.name}” is unplugged`,
      strike: (now) => {
        const fallen = now.sources
          .filter((source) => source.into === device.id && !isPlugged(source.kind))
          .map(
            (source): SimpleEdit => ({
              edit: 'updateSource',
              id: source.id,
              values: { into: DEFAULT_DEVICE },
            }),
          );
        return struckBy(now, [...fallen, { edit: 'removeDevice', id: device.id, rehome: null }]);
      },
    }));
}

/**
 * A new game starts instead of the one that the setup knows: it plays into the default device, a pickup of the known game alone does not
 * take it, and it is wanted wherever the known one is.
 */
export function newGames(setup: Setup): Drill[] {
  return setup.machines.flatMap((machine): Drill[] => {
    const known = setup.sources.find(({ kind, machine: on }) => kind === 'game' && on === machine.id);
    if (!known || !machine.defaultOutput) return [];
    return [
      {
        id: `new-game.${machine.id}`,
        kind: 'new game',
        label: `A new game starts on ${machine.name}`,
        strike: (now) => {
          const game = now.sources.find(({ id }) => id === known.id);
          if (!game) return null;
          const id = newId(now, 'new game');
          const { volumePercent: _, processing: _none, app: _app, ...rest } = game;
          const wishes = now.intent.filter(({ source }) => source === game.id);
          return struckBy(now, [
            {
              edit: 'addSource',
              id,
              at: now.sources.indexOf(game),
              source: {
                ...withoutId(rest),
                name: 'The new game',
                into: DEFAULT_DEVICE,
                levelDb: 0,
                media: null,
              },
            },
            { edit: 'removeSource', id: game.id },
            ...wishes.map((wish): SimpleEdit => ({ edit: 'setWish', ...wish, source: id })),
          ]);
        },
      },
    ];
  });
}

function withoutId({ id: _, ...rest }: Source): Omit<Source, 'id'> {
  return rest;
}
