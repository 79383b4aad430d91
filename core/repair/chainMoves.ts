import type { Finding } from '../findings/finding.ts';
import { onceOnly } from '../findings/processedTwice.ts';
import { deviceOf } from '../reach/graph.ts';
import { knownReach } from '../reach/knownReach.ts';
import { ownGainDb } from '../reach/reach.ts';
import { nameOf, type SimpleEdit } from '../setup/edits.ts';
import { DEFAULT_DEVICE, type Setup, type Source } from '../setup/schema.ts';
import type { Candidate } from './candidate.ts';
import { pickupMoves } from './moves.ts';
import { elsewhere, separations } from './separate.ts';

/**
 * Returns single changes of the wiring that could have to do with a finding: what lies on its paths is closed or
 * muted, what is missing is brought on. None is tried yet, and two of them may be needed together.
 */
export function chainMoves(setup: Setup, finding: Finding): Candidate[] {
  const source = setup.sources.find((one) => one.id === finding.source);
  switch (finding.code) {
    case 'feedback':
      return finding.source === null ? loopBreakers(setup) : pathBreakers(setup, finding);
    case 'echo.party':
    case 'echo.self':
    case 'doubled':
      return pathBreakers(setup, finding);
    case 'unwanted':
    case 'leak.live':
    case 'leak.vod':
    case 'leak.upload':
      return [...pathBreakers(setup, finding), ...(source ? separations(setup, source) : [])];
    case 'fused':
      return fusedSources(setup, finding).flatMap((one) => separations(setup, one));
    case 'no-own-track':
      return source ? separations(setup, source) : [];
    case 'missing':
    case 'swallowed':
      return source ? [...bringers(setup, source, finding.destination), ...pickupMoves(setup, source)] : [];
    case 'scene-gap':
      return sceneFillers(setup, finding);
    case 'on-default':
      return source ? pins(setup, source) : [];
    case 'player-volume':
      return source
        ? [
            {
              label: `Set ${source.name}’s own volume to 100 %`,
              edits: [{ edit: 'updateSource', id: source.id, values: { volumePercent: 100 } }],
            },
          ]
        : [];
    case 'double-processing':
      return source ? onceOnly(setup, knownReach(setup), source, finding) : [];
    case 'hum-risk':
      return linkMoves(setup, finding, 'Put an isolator into', { isolated: true });
    case 'drift':
    case 'rate-mismatch':
      return linkMoves(setup, finding, 'Let the far end follow the clock of', { converted: true });
    default:
      return [];
  }
}

/** Every control on the paths of the finding, closed. */
function pathBreakers(setup: Setup, finding: Finding): Candidate[] {
  const places = knownReach(setup).at(finding.source ?? '', finding.destination ?? '')?.places ?? [];
  const moves = new Map<string, Candidate>();
  const put = (label: string, edit: SimpleEdit) => moves.set(label, { label, edits: [edit] });
  for (const path of places) {
    for (let i = path.length - 1; i > 0; i--) {
      const [from, to] = [path[i - 1], path[i]];
      if (setup.sends.some((one) => one.pickup === from && one.to === to))
        put(`Close ${nameOf(setup, from)} on ${nameOf(setup, to)}`, {
          edit: 'setSend',
          pickup: from,
          to,
          gainDb: null,
        });
      const mix = setup.mixes.find((one) => one.id === to);
      if (mix?.inputs.some((input) => input.from === from))
        put(`Mute ${nameOf(setup, from)} in the mix “${mix.name}”`, {
          edit: 'setMixInput',
          mix: mix.id,
          from,
          values: { muted: true },
        });
    }
  }
  return [...moves.values()];
}

function loopBreakers(setup: Setup): Candidate[] {
  return setup.mixes.flatMap((mix) =>
    mix.inputs
      .filter((input) => !input.muted && !setup.sources.some((source) => source.id === input.from))
      .map(
        (input): Candidate => ({
          label: `Mute ${nameOf(setup, input.from)} in the mix “${mix.name}”`,
          edits: [{ edit: 'setMixInput', mix: mix.id, from: input.from, values: { muted: true } }],
        }),
      ),
  );
}

function fusedSources(setup: Setup, finding: Finding): Source[] {
  const pickup = finding.detail ?? '';
  const carried = knownReach(setup).sourcesAt(pickup);
  const order = [finding.source, ...carried];
  return [...new Set(order)].flatMap((id) => setup.sources.filter((source) => source.id === id));
}

/** Ways to bring a source on: another device that is taken, a pickup where it is, an input in a mix that is heard. */
function bringers(setup: Setup, source: Source, destinationId: string | null): Candidate[] {
  const reach = knownReach(setup);
  const moves: Candidate[] = [];
  const device = deviceOf(setup, source);
  const recorder = setup.recorder.machine;
  const at = device ?? source.id;
  const isHere = recorder === undefined || source.machine === undefined || source.machine === recorder;
  const carrying = setup.pickups.some(({ id }) => reach.sourcesAt(id).includes(source.id));
  if (isHere && !carrying) {
    const id = `${at}.taken`.slice(0, 64);
    moves.push({
      label: `Pick up ${nameOf(setup, at)} and send it where it is wanted`,
      edits: [{ edit: 'addPickup', id, pickup: { takes: at, gainDb: 0 } }, ...wishedSends(setup, source, id)],
    });
  }
  moves.push(...elsewhere(setup, source));
  for (const mix of setup.mixes) {
    for (const input of mix.inputs) {
      const passes = input.from === source.id || reach.sourcesAt(input.from).includes(source.id);
      if (input.muted && passes)
        moves.push({
          label: `Open ${nameOf(setup, input.from)} in the mix “${mix.name}”`,
          edits: [{ edit: 'setMixInput', mix: mix.id, from: input.from, values: { muted: false } }],
        });
    }
    const takesIn = mix.inputs.some((input) => input.from === at);
    if (!takesIn && mix.machine === source.machine)
      moves.push({
        label: `Take ${nameOf(setup, at)} into the mix “${mix.name}”`,
        edits: [{ edit: 'setMixInput', mix: mix.id, from: at, values: { gainDb: 0 } }],
      });
  }
  const ears = setup.destinations.find((one) => one.id === destinationId && one.kind !== 'live');
  if (ears && device && ears.kind === 'headphones')
    moves.push({
      label: `Let ${ears.name} hear ${nameOf(setup, device)} too`,
      edits: [{ edit: 'updateDestination', id: ears.id, values: { hears: [...(ears.hears ?? []), device] } }],
    });
  return moves;
}

function wishedSends(setup: Setup, source: Source, pickup: string): SimpleEdit[] {
  const { destinations } = knownReach(setup);
  const feeds = new Map<string, number>();
  for (const wish of setup.intent) {
    const place = destinations.find((one) => one.id === wish.destination);
    if (wish.source === source.id && place?.feedId && place.track)
      feeds.set(place.feedId, wish.gainDb - ownGainDb(source));
  }
  return Array.from(feeds, ([to, gainDb]): SimpleEdit => ({ edit: 'setSend', pickup, to, gainDb }));
}

function sceneFillers(setup: Setup, finding: Finding): Candidate[] {
  const scene = finding.detail ?? '';
  const reach = knownReach(setup);
  const silent = setup.sources.filter(({ id }) => reach.at(id, finding.destination ?? ''));
  const pickups = setup.pickups.filter(
    (pickup) =>
      pickup.scenes &&
      !pickup.scenes.includes(scene) &&
      silent.some((source) => reach.sourcesAt(pickup.id).includes(source.id)),
  );
  const one = (chosen: typeof pickups): Candidate => ({
    label: `Let ${chosen.map((pickup) => nameOf(setup, pickup.id)).join(' and ')} sound in “${nameOf(setup, scene)}” too`,
    edits: chosen.map(
      (pickup): SimpleEdit => ({
        edit: 'updatePickup',
        id: pickup.id,
        values: { scenes: [...(pickup.scenes ?? []), scene] },
      }),
    ),
  });
  return [...pickups.map((pickup) => one([pickup])), ...(pickups.length > 1 ? [one(pickups)] : [])];
}

function pins(setup: Setup, source: Source): Candidate[] {
  const device = source.into === DEFAULT_DEVICE ? deviceOf(setup, source) : undefined;
  if (device === undefined) return [];
  return [
    {
      label: `Pin ${source.name} to “${nameOf(setup, device)}”`,
      edits: [{ edit: 'updateSource', id: source.id, values: { into: device } }],
    },
  ];
}

function linkMoves(
  setup: Setup,
  finding: Finding,
  verb: string,
  values: { isolated?: boolean; converted?: boolean },
): Candidate[] {
  const id = finding.detail ?? '';
  if (!setup.links.some((link) => link.id === id)) return [];
  return [{ label: `${verb} “${nameOf(setup, id)}”`, edits: [{ edit: 'updateLink', id, values }] }];
}
