import { canPart } from '../reach/fused.ts';
import { deviceOf, type GraphEdge } from '../reach/graph.ts';
import { type Arrival, OFF_LEVEL_DB, type Reach, volumeDb } from '../reach/reach.ts';
import { MOST_PATHS } from '../reach/waves.ts';
import { nameOf } from '../setup/edits.ts';
import { DEFAULT_DEVICE, type Setup, type Source } from '../setup/schema.ts';
import { listed } from '../setup/words.ts';
import { type Finding, finding, placeName, type Survey } from './finding.ts';
import { processedTwice } from './processedTwice.ts';

/** Sentences name as many sources at most. */
const MOST_NAMES = 3;
/** The creator's own voice is heard as an echo from this delay on (ms). */
export const OWN_VOICE_LATE_MS = 10;

/** Returns the findings that lie in the wiring: devices, mixes, links, pickups and scenes. */
export function* chainFindings(survey: Survey): Generator<Finding> {
  yield* loops(survey.reach);
  yield* knots(survey);
  for (const source of survey.setup.sources) yield* chainFindingsOfSource(survey, source);
  yield* fused(survey);
  yield* sceneGaps(survey);
  yield* links(survey);
}

/** Those of them that are about one source. */
export function* chainFindingsOfSource(survey: Survey, source: Source): Generator<Finding> {
  const { reach } = survey;
  for (const destination of reach.destinations) {
    const arrival = reach.at(source.id, destination.id);
    if (!arrival) continue;
    yield* doubled(source, destination, arrival);
    yield* echoes(source, destination, arrival);
  }
  yield* swallowed(survey, source);
  yield* ownSettings(survey, source);
  yield* processedTwice(survey, source);
}

function* loops({ graph }: Reach): Generator<Finding> {
  for (const loop of graph.loops) {
    yield finding(
      'feedback',
      'stop',
      `A loop: ${[...loop, loop[0]].join(' → ')}. It would howl; Northfen cuts it where it closes, and lets nothing through there.`,
      { detail: loop.join('>').toLowerCase() },
    );
  }
}

/** Wiring in which a sound has more paths than are written out; of all of them, the greatest number is told. */
function* knots({ setup, reach }: Survey): Generator<Finding> {
  let worst: { source: Source; destination: Place; copies: number } | null = null;
  for (const source of setup.sources) {
    for (const destination of reach.destinations) {
      const copies = reach.at(source.id, destination.id)?.copies ?? 0;
      if (copies > Math.max(MOST_PATHS, worst?.copies ?? 0)) worst = { source, destination, copies };
    }
  }
  if (!worst) return;
  const { source, destination, copies } = worst;
  yield finding(
    'knot',
    'note',
    `${source.name} reaches ${placeName(destination)} by ${copies.toLocaleString('en-GB')} paths. Northfen adds all of them up, but lists only the ${MOST_PATHS} loudest of each sound, and looks for remedies along those. Let fewer mixes feed each other.`,
    { source: source.id, destination: destination.id },
  );
}

type Place = Reach['destinations'][number];

function* doubled(source: Source, destination: Place, arrival: Arrival): Generator<Finding> {
  const { doubling } = arrival;
  if (!doubling) return;
  const louder = `${doubling.gainChangeDb.toFixed(1)} dB louder`;
  const what =
    doubling.firstNotchHz === null
      ? `it gets ${louder}`
      : `it gets ${louder} and sounds hollow (first notch at ${hertz(doubling.firstNotchHz)})`;
  yield finding(
    'doubled',
    'warn',
    `${source.name} arrives at ${placeName(destination)} ${times(arrival.copies)}: ${what}.`,
    { source: source.id, destination: destination.id, arrivals: [arrival] },
  );
}

function* echoes(source: Source, destination: Place, arrival: Arrival): Generator<Finding> {
  const about = { source: source.id, destination: destination.id, arrivals: [arrival] };
  if (source.kind === 'voice chat' && destination.kind === 'friends') {
    yield finding(
      'echo.party',
      'stop',
      `${destination.name} hear ${source.name} coming back: the mix that their chat takes contains their own voices.`,
      about,
    );
  }
  if (source.kind !== 'microphone') return;
  if (destination.kind === 'loudspeakers') {
    yield finding(
      'feedback',
      'stop',
      `${source.name} is played by ${destination.name} in the same room as the microphone: it will howl.`,
      { ...about, detail: 'room' },
    );
  }
  const latest = arrival.latestMs;
  if (destination.kind === 'headphones' && (latest > OWN_VOICE_LATE_MS || arrival.copies > 1)) {
    const how = arrival.copies > 1 ? times(arrival.copies) : `${latest.toFixed(0)} ms late, as an echo`;
    yield finding('echo.self', 'warn', `You hear your own voice (${source.name}) ${how}.`, about);
  }
}

function* swallowed({ setup, reach, intent }: Survey, source: Source): Generator<Finding> {
  if (source.into === undefined) return;
  const device = setup.devices.find((one) => one.id === deviceOf(setup, source));
  const where = device
    ? reach.graph.nodes[reach.graph.indexOf.get(device.id) as number].place
    : 'a default device that its machine does not have';
  const arrivesAt = reach.destinations.filter((place) => reach.at(source.id, place.id));
  if (arrivesAt.length === 0) {
    yield finding('swallowed', 'warn', `${source.name} plays into ${where}, and nobody hears it.`, {
      source: source.id,
    });
    return;
  }
  const ears = reach.destinations.find((place) => place.kind === 'headphones');
  if (!ears || intent.at(source.id, ears.id) === null || reach.at(source.id, ears.id)) return;
  yield finding(
    'swallowed',
    'warn',
    `${source.name} plays into ${where}, which goes on to ${placeName(arrivesAt[0])}, but you cannot hear it yourself.`,
    { source: source.id, destination: ears.id },
  );
}

function* ownSettings(survey: Survey, source: Source): Generator<Finding> {
  const { setup } = survey;
  const machine = setup.machines.find((one) => one.id === source.machine);
  if (source.into === DEFAULT_DEVICE && machine) {
    yield finding(
      'on-default',
      'note',
      `${source.name} plays into whatever is the default of ${machine.name}; nothing pins it.`,
      { source: source.id },
    );
  }
  if (source.volumePercent !== undefined && source.volumePercent < 100) {
    yield finding(
      'player-volume',
      isTooQuietBy(survey, source) ? 'warn' : 'note',
      `${source.name}’s own volume is at ${source.volumePercent} %, so every level of it is ${(20 * Math.log10(100 / source.volumePercent)).toFixed(1)} dB lower than it says.`,
      { source: source.id },
    );
  }
}

/** Tells whether an app's own volume keeps it off its wish somewhere. */
function isTooQuietBy({ reach, intent }: Survey, source: Source): boolean {
  const lostDb = -volumeDb(source);
  return (
    lostDb >= OFF_LEVEL_DB &&
    reach.destinations.some(({ id }) => {
      const wantedDb = intent.at(source.id, id);
      const arrival = reach.at(source.id, id);
      return wantedDb !== null && arrival !== null && wantedDb - arrival.gainDb >= OFF_LEVEL_DB;
    })
  );
}

/** One finding for each pickup that carries sources which are wanted in different places. */
function* fused({ setup, reach, intent }: Survey): Generator<Finding> {
  for (const pickup of setup.pickups) {
    const carried = reach.sourcesAt(pickup.id);
    if (carried.length < 2) continue;
    const differences = reach.destinations.flatMap((place) => {
      if (place.track === null && !setup.sends.some((one) => one.pickup === pickup.id && one.to === place.id))
        return [];
      const wanted = carried.filter((id) => intent.at(id, place.id) !== null);
      const not = carried.filter((id) => intent.at(id, place.id) === null);
      const together = wanted.filter((id) => not.some((other) => !canPart(setup, reach, id, other)));
      return together.length > 0 && not.length > 0 ? [{ place, wanted: together, not }] : [];
    });
    const [first] = differences;
    if (!first) continue;
    const names = (ids: string[]) =>
      listed(
        ids.map((id) => nameOf(setup, id)),
        MOST_NAMES,
      );
    const more =
      differences.length > 1
        ? ` The same at ${differences.length - 1} more place${differences.length > 2 ? 's' : ''}.`
        : '';
    const place = reach.graph.nodes[reach.graph.indexOf.get(pickup.id) as number].place;
    yield finding(
      'fused',
      'warn',
      () =>
        `${names(carried)} come by one pickup (${place}), and no send can tell them apart: ${names(first.wanted)} ${first.wanted.length === 1 ? 'is' : 'are'} wanted at ${placeName(first.place)}, ${names(first.not)} ${first.not.length === 1 ? 'is' : 'are'} not.${more}`,
      { source: first.wanted[0], destination: first.place.id, detail: pickup.id },
    );
  }
}

function* sceneGaps({ setup, reach, intent }: Survey): Generator<Finding> {
  const live = reach.destinations.find((place) => place.kind === 'live');
  if (!live || !setup.pickups.some((pickup) => pickup.scenes)) return;
  const scenesOf = new Map(setup.pickups.map(({ id, scenes }) => [id, scenes]));
  const due = setup.sources.flatMap(({ id, name }) => {
    const arrival = intent.at(id, live.id) === null ? null : reach.at(id, live.id);
    return arrival ? [{ id, name, places: arrival.places }] : [];
  });
  for (const scene of setup.scenes) {
    const isSilent = (place: string) => scenesOf.get(place)?.includes(scene.id) === false;
    const silent = due.filter(({ places }) => places.every((path) => path.some(isSilent)));
    if (silent.length === 0) continue;
    yield finding(
      'scene-gap',
      'stop',
      `In the scene “${scene.name}”, ${listed(
        silent.map(({ name }) => name),
        MOST_NAMES,
      )} ${silent.length === 1 ? 'goes' : 'go'} silent at ${live.name}: the pickup does not sound there.`,
      { source: silent[0].id, destination: live.id, detail: scene.id },
    );
  }
}

function* links({ setup, reach }: Survey): Generator<Finding> {
  const carried = carriedByLink(setup, reach);
  const rateOf = (id: string) => setup.devices.find((one) => one.id === id)?.sampleRate ?? 48_000;
  for (const link of setup.links) {
    const over = carried.get(link.id);
    if (!over) continue;
    const { edge, sources, destination, arrival } = over;
    const about = { source: sources[0], destination: destination.id, arrivals: [arrival], detail: link.id };
    const names = listed(
      sources.map((id) => nameOf(setup, id)),
      MOST_NAMES,
    );
    if (link.kind === 'analogue' && !link.isolated) {
      yield finding(
        'hum-risk',
        'warn',
        `The analogue line “${link.name}” is not isolated: its hum (50 Hz and harmonics) rides along with ${names} to ${placeName(destination)}.`,
        about,
      );
    }
    if (edge.driftPpm !== 0) {
      yield finding(
        'drift',
        'warn',
        `The clocks at both ends of “${link.name}” run ${Math.abs(edge.driftPpm).toFixed(0)} parts per million apart: after an hour ${names} ${sources.length === 1 ? 'is' : 'are'} ${Math.abs(edge.driftPpm * 3.6).toFixed(0)} ms off. One clock must lead, or the far end convert.`,
        about,
      );
    }
    if (link.converted === false && rateOf(link.from) !== rateOf(link.to)) {
      yield finding(
        'rate-mismatch',
        'warn',
        `“${link.name}” leads from ${rateOf(link.from)} Hz to ${rateOf(link.to)} Hz without conversion: ${names} would arrive at the wrong pitch and speed, or crackle.`,
        about,
      );
    }
  }
}

/** For each link that something comes over: which sources, and one place at which they arrive. */
function carriedByLink(setup: Setup, reach: Reach) {
  const found = new Map<
    string,
    { edge: GraphEdge; sources: string[]; destination: Place; arrival: Arrival }
  >();
  if (setup.links.length === 0) return found;
  for (const { id } of setup.sources) {
    for (const destination of reach.destinations) {
      const arrival = reach.at(id, destination.id);
      for (const edge of arrival?.links ?? []) {
        const known = found.get(edge.link?.id ?? '');
        if (!known && arrival && edge.link)
          found.set(edge.link.id, { edge, sources: [id], destination, arrival });
        else if (known && !known.sources.includes(id)) known.sources.push(id);
      }
    }
  }
  return found;
}

/**
 * Says how far a source gets that does not arrive: the place after which nothing takes it up, or what is closed.
 * Undefined when the source is not wired.
 */
export function whereItStops(setup: Setup, reach: Reach, source: Source): string | undefined {
  const pickup = setup.pickups.find(({ id }) => reach.sourcesAt(id).includes(source.id));
  if (pickup) return undefined;
  const muted = setup.mixes.find((mix) =>
    mix.inputs.some(
      ({ from, muted }) => muted && (from === source.id || reach.sourcesAt(from).includes(source.id)),
    ),
  );
  if (muted) return `it is muted in the mix “${muted.name}”`;
  const device = deviceOf(setup, source);
  if (device === undefined) return 'no pickup takes it';
  const place = reach.graph.nodes[reach.graph.indexOf.get(device) as number]?.place;
  return `it plays into ${place ?? 'nothing'}, and no pickup takes it from there`;
}

function times(count: number): string {
  return count === 2 ? 'twice' : `${count} times`;
}

function hertz(value: number): string {
  return value >= 1000 ? `${(value / 1000).toFixed(1)} kHz` : `${value.toFixed(0)} Hz`;
}
