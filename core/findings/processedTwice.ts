import type { Reach } from '../reach/reach.ts';
import type { Candidate } from '../repair/candidate.ts';
import { type Bearer, type Borne, everyProcessing } from '../setup/bearers.ts';
import { bearerWords } from '../setup/bearerWords.ts';
import type { DeviceEffect } from '../setup/deviceEffects.ts';
import { processEdit } from '../setup/processEdit.ts';
import { effectOf, type Processor, STEP_WORDS } from '../setup/processing.ts';
import type { Setup, Source } from '../setup/schema.ts';
import type { Device } from '../setup/wiring.ts';
import { isHumCut } from '../signal/humCuts.ts';
import { type Finding, finding, placeName, type Survey } from './finding.ts';

const EFFECT_WORDS: Record<DeviceEffect, string> = {
  gate: 'a noise gate',
  compressor: 'a compressor',
  equaliser: 'an equaliser',
  'noise reduction': 'noise reduction',
};

/** Something that is done to a sound on its way: by a step of a processing, or by a device. */
type Done = { effect: DeviceEffect } & ({ borne: Borne; at: number } | { device: Device });

/** The same done twice to one sound: the second time harms it. */
interface Pair {
  first: Done;
  second: Done;
}

/** Returns what is done twice to a source: in its own processing, or on its way. */
export function* processedTwice({ setup, reach }: Survey, source: Source): Generator<Finding> {
  const told = new Set<string>();
  const isNew = (second: Done) => !told.has(detailOf(second)) && told.add(detailOf(second));
  for (const { second } of pairsIn(ownSteps(setup, source))) {
    if (!isNew(second)) continue;
    const words = 'borne' in second ? STEP_WORDS[second.borne.processing[second.at].does] : second.effect;
    yield finding(
      'double-processing',
      'warn',
      `${source.name} goes through two ${words}s: the second works on what the first has left, and words are chopped or flattened.`,
      { source: source.id, detail: detailOf(second) },
    );
  }
  if (isOnlyAtSources(setup)) return;
  for (const destination of reach.destinations) {
    for (const { first, second } of pairsOnTheWay(setup, reach, source, destination.id)) {
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

/** What can be done about it: a step is bypassed, or a device that does the same is switched off. */
export function onceOnly(setup: Setup, reach: Reach, source: Source, about: Finding): Candidate[] {
  const pairs = about.destination
    ? pairsOnTheWay(setup, reach, source, about.destination)
    : pairsIn(ownSteps(setup, source));
  const pair = pairs.find(({ second }) => detailOf(second) === about.detail);
  if (!pair) return [];
  const { first, second } = pair;
  if ('borne' in first && 'borne' in second && first.borne === second.borne)
    return [withoutDone(setup, second, first.at)];
  return [...('borne' in first ? [first] : []), second].map((done) => withoutDone(setup, done));
}

/** @param keptAt the step of the same effect that stays; −1 for none */
function withoutDone(setup: Setup, done: Done, keptAt = -1): Candidate {
  if ('device' in done) {
    const { device, effect } = done;
    const does = device.does?.filter((one) => one !== effect);
    return {
      label: `Switch the ${effect} of “${device.name}” off`,
      edits: [{ edit: 'updateDevice', id: device.id, values: { does } }],
    };
  }
  const { borne, at, effect } = done;
  const processing = borne.processing.map((step, i) =>
    i !== keptAt && effectAt(step) === effect ? { ...step, off: true } : step,
  );
  const what = effect === 'equaliser' ? 'equaliser' : STEP_WORDS[borne.processing[at].does];
  return {
    label: `Bypass the ${what} of ${bearerWords(setup, borne.bearer)}`,
    edits: [processEdit(setup, borne.bearer, processing)],
  };
}

function whereDone(setup: Setup, source: Source, done: Done): string {
  if ('device' in done) return `“${done.device.name}”`;
  const { bearer } = done.borne;
  return bearer.kind === 'source' && bearer.id === source.id
    ? 'its own processing'
    : bearerWords(setup, bearer);
}

/** Sets findings about one source apart. */
function detailOf(done: Done): string {
  if ('device' in done) return `${done.effect} ${done.device.id}`;
  const { bearer } = done.borne;
  return bearer.kind === 'source' ? done.effect : `${done.effect} ${keyOf(bearer)}`;
}

function keyOf(bearer: Bearer): string {
  return 'id' in bearer ? bearer.id : `${bearer.from} > ${bearer.to}`;
}

/** Pairs of the same effect; the bands of one processing are one equaliser, and cuts at the lines of a hum are none. */
function pairsIn(list: Done[]): Pair[] {
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
function pairsOnTheWay(setup: Setup, reach: Reach, source: Source, destinationId: string): Pair[] {
  const processed = processedIn(setup);
  const own = ownSteps(setup, source);
  return (reach.at(source.id, destinationId)?.places ?? []).flatMap((places) => {
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

function ownSteps(setup: Setup, source: Source): Done[] {
  return source.processing ? stepsAt(processedIn(setup).get(source.id)) : [];
}

function stepsAt(borne: Borne | undefined): Done[] {
  return (borne?.processing ?? []).flatMap((step, at) => {
    const effect = effectAt(step);
    return effect && borne ? [{ effect, borne, at }] : [];
  });
}

/** The effect of a step that counts: of one that is on, and is no cut at a line of a hum. */
function effectAt(step: Processor): DeviceEffect | undefined {
  return step.off || isHumCut(step) ? undefined : effectOf(step);
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

function isOnlyAtSources(setup: Setup): boolean {
  const processed = processedIn(setup);
  if (processed.devices.size > 0) return false;
  for (const { bearer } of processed.values()) if (bearer.kind !== 'source') return false;
  return true;
}
