import type { DeviceEffect } from '../processors/deviceEffects.ts';
import { isHumCut } from '../processors/humCuts.ts';
import { kindOf, type Processor, wordFor } from '../processors/processing.ts';
import type { Arrival, Reach } from '../reach/reach.ts';
import { type Bearer, type Borne, everyProcessing } from '../setup/bearers.ts';
import { bearerWords } from '../setup/bearerWords.ts';
import type { Setup, Source } from '../setup/schema.ts';
import type { Device } from '../setup/wiring.ts';
import { type Finding, finding, placeName } from './finding.ts';
import type { Survey } from './survey.ts';

const EFFECT_WORDS: Record<DeviceEffect, string> = {
  gate: 'a noise gate',
  compressor: 'a compressor',
  equaliser: 'an equaliser',
  'noise reduction': 'noise reduction',
};

/** Something that is done to a sound on its way: by a step of a processing, or by a device. */
export type Done = { effect: DeviceEffect } & ({ borne: Borne; at: number } | { device: Device });

/** The same done twice to one sound: the second time harms it. */
interface Pair {
  first: Done;
  second: Done;
}

/** What is done twice to a source: in its own processing, or on its way. */
export function* processedTwice(survey: Survey): Generator<Finding> {
  for (const source of survey.setup.sources) yield* twiceTo(survey, source);
}

function* twiceTo({ setup, reach }: Survey, source: Source): Generator<Finding> {
  const told = new Set<string>();
  const isNew = (second: Done) => !told.has(detailOf(second)) && told.add(detailOf(second));
  for (const { second } of pairsIn(ownSteps(setup, source))) {
    if (!isNew(second)) continue;
    const words = 'borne' in second ? wordFor(second.borne.processing[second.at]) : second.effect;
    yield finding(
      'double-processing',
      'warn',
      `${source.name} goes through two ${words}s: the second works on what the first has left, and words are chopped or flattened.`,
      { source: source.id, detail: detailOf(second) },
    );
  }
  if (isOnlyAtSources(setup)) return;
  for (const destination of reach.destinations) {
    for (const { first, second } of pairsOnTheWay(setup, reach.at(source.id, destination.id), source)) {
      if (!isNew(second)) continue;
      yield finding(
        'double-processing',
        'warn',
        () =>
          `${source.name} gets ${EFFECT_WORDS[second.effect]} twice on its way to ${placeName(destination)}: in ${whereDone(setup, source, first)} and again in ${whereDone(setup, source, second)}. Switch one of them off.`,
        { source: source.id, destination: destination.id, detail: detailOf(second) },
      );
    }
  }
}

/** Returns what is done twice to a source, each as the detail of its finding, without any words. */
export function doneTwice(
  setup: Setup,
  source: Source,
  destinations: Reach['destinations'],
  at: (destination: string) => Arrival | null,
): string[] {
  const details = new Set(pairsIn(ownSteps(setup, source)).map(({ second }) => detailOf(second)));
  if (!isOnlyAtSources(setup))
    for (const { id } of destinations)
      for (const { second } of pairsOnTheWay(setup, at(id), source)) details.add(detailOf(second));
  return [...details];
}

function whereDone(setup: Setup, source: Source, done: Done): string {
  if ('device' in done) return `“${done.device.name}”`;
  const { bearer } = done.borne;
  return bearer.kind === 'source' && bearer.id === source.id
    ? 'its own processing'
    : bearerWords(setup, bearer);
}

/** Sets findings about one source apart. */
export function detailOf(done: Done): string {
  if ('device' in done) return `${done.effect} ${done.device.id}`;
  const { bearer } = done.borne;
  return bearer.kind === 'source' ? done.effect : `${done.effect} ${keyOf(bearer)}`;
}

function keyOf(bearer: Bearer): string {
  return 'id' in bearer ? bearer.id : `${bearer.from} > ${bearer.to}`;
}

/** Pairs of the same effect; the bands of one processing are one equaliser, and cuts at the lines of a hum are none. */
export function pairsIn(list: Done[]): Pair[] {
  const before = new Map<DeviceEffect, Done>();
  return list.flatMap((second) => {
    const first = before.get(second.effect);
    if (!first) before.set(second.effect, second);
    const isOne =
      first &&
      second.effect === 'equaliser' &&
      'borne' in first &&
      'borne' in second &&
      first.borne === second.borne;
    return first && !isOne ? [{ first, second }] : [];
  });
}

/** The pairs on every path of a source to a destination of which the second is not the source's own. */
export function pairsOnTheWay(setup: Setup, arrival: Arrival | null, source: Source): Pair[] {
  const processed = processedIn(setup);
  const own = ownSteps(setup, source);
  return (arrival?.places ?? []).flatMap((places) => {
    const onTheWay = places.slice(1).flatMap((id, i): Done[] => [
      ...stepsAt(processed.get(`${places[i]} > ${id}`)),
      ...stepsAt(processed.get(id)),
      ...(processed.devices.get(id)?.does ?? []).map((effect) => ({
        effect,
        device: processed.devices.get(id) as Device,
      })),
    ]);
    return onTheWay.length === 0
      ? []
      : pairsIn([...own, ...onTheWay]).filter(({ second }) => !own.includes(second));
  });
}

export function ownSteps(setup: Setup, source: Source): Done[] {
  return source.processing ? stepsAt(processedIn(setup).get(source.id)) : [];
}

function stepsAt(borne: Borne | undefined): Done[] {
  return (borne?.processing ?? []).flatMap((step, at) => {
    const effect = effectAt(step);
    return effect && borne ? [{ effect, borne, at }] : [];
  });
}

/** The effect of a step that counts: of one that is on, and is no cut at a line of a hum. */
export function effectAt(step: Processor): DeviceEffect | undefined {
  return step.off || isHumCut(step) ? undefined : kindOf(step).effect;
}

/** Everything that is processed, by the key of what bears it, and the devices that do something by themselves. */
class Processed extends Map<string, Borne> {
  readonly devices: Map<string, Device>;

  constructor(setup: Setup) {
    super(everyProcessing(setup).map((borne) => [keyOf(borne.bearer), borne]));
    this.devices = new Map(setup.devices.flatMap((device) => (device.does ? [[device.id, device]] : [])));
  }
}

const known = new WeakMap<Setup, Processed>();

function processedIn(setup: Setup): Processed {
  const found = known.get(setup) ?? new Processed(setup);
  known.set(setup, found);
  return found;
}

/** Tells whether nothing is processed but in sources themselves: then nothing can be done twice on a way. */
function isOnlyAtSources(setup: Setup): boolean {
  const { devices, mixes, sends, tracks, destinations } = setup;
  return !(
    devices.some(({ does }) => does) ||
    mixes.some(({ processing, inputs }) => processing || inputs.some((input) => input.processing)) ||
    sends.some(({ processing }) => processing) ||
    tracks.some(({ processing }) => processing) ||
    destinations.some(({ processing }) => processing)
  );
}
