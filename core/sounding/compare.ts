import { stepsOn } from '../processors/processing.ts';
import { signOf } from '../reach/graphBuilder.ts';
import { type Arrival, type Reach, reachOf } from '../reach/reach.ts';
import { pickupName } from '../setup/edits.ts';
import type { Setup, Source, Track } from '../setup/schema.ts';
import { gainText } from '../words/figures.ts';
import type { MeasuredCell } from './cells.ts';
import type { CodedSource } from './read.ts';

const { abs } = Math;

/** What differs at one source on one track. */
export type DifferenceKind = 'arrives' | 'missing' | 'level' | 'late' | 'copies' | 'sides' | 'polarity';

/** One thing in which the real room differs from its setup. */
export interface Difference {
  kind: DifferenceKind;
  source: string;
  track: string;
  /** What the setup says (dB), where it says anything. */
  computedDb: number | null;
  measuredDb: number | null;
  message: string;
}

/** The room differs where a level is this far off (dB), or a delay (ms). */
const LEVEL_DB = 2;
const LATE_MS = 2;
/** What processing makes of a test sound's level nobody computes; only more than this is said (dB). */
const PROCESSED_DB = 12;
/** What the setup brings more quietly than this is not looked for in a recording. */
const READ_FROM_DB = -58;
/** Copies of a sound within so many ms are one. */
const ONE_MS = 0.5;

/** The sources of a setup as they are coded: a microphone hears one sound, everything else has two sides. */
export function codedSources(setup: Setup): CodedSource[] {
  return setup.sources.map(({ id, kind }) => ({ id, sides: kind === 'microphone' ? 'mono' : 'stereo' }));
}

/**
 * Sets what was read in a real room beside what its setup brings to each track.
 * @param cells with the tracks of the setup, by id
 * @param played the sources that were played; of others nothing is known
 */
export function differencesOf(
  setup: Setup,
  cells: (Omit<MeasuredCell, 'track'> & { track: string })[],
  tracks: string[],
  played: ReadonlySet<string>,
): Difference[] {
  const reach = reachOf(setup);
  const differences: Difference[] = [];
  for (const source of setup.sources) {
    if (!played.has(source.id)) continue;
    const computed = new Map(tracks.map((track) => [track, reach.onTrack(source.id, track)] as const));
    const firstMs = Math.min(
      ...[...computed.values()].filter((one) => one !== null).map((one) => one.delayMs),
    );
    for (const [at, track] of setup.tracks.entries()) {
      if (!tracks.includes(track.id)) continue;
      const cell = cells.find((one) => one.source === source.id && one.track === track.id);
      const arrival = computed.get(track.id) ?? null;
      differences.push(...differencesAt(source, track, at, arrival, cell, firstMs, reach, setup));
    }
  }
  return differences;
}

function differencesAt(
  source: Source,
  track: Track,
  at: number,
  arrival: Arrival | null,
  cell: Omit<MeasuredCell, 'track'> | undefined,
  firstMs: number,
  reach: Reach,
  setup: Setup,
): Difference[] {
  const place = `track ${at + 1} “${track.name}”`;
  const computedDb = arrival?.gainDb ?? null;
  const base = { source: source.id, track: track.id, computedDb, measuredDb: cell?.gainDb ?? null };
  if (!cell) {
    if (computedDb === null || computedDb < READ_FROM_DB) return [];
    const swallowed = swallowers(setup, reach, source);
    const message = `${source.name} is not in ${place}, where the setup brings it at ${gainText(computedDb)} dB.${swallowed ? ` It may be that ${swallowed} swallows the test sound.` : ''}`;
    return [{ ...base, kind: 'missing', message }];
  }
  if (!arrival) {
    const message = `${source.name} is in ${place} at ${gainText(cell.gainDb)} dB, where the setup does not bring it.`;
    return [{ ...base, kind: 'arrives', message }];
  }
  const found: Difference[] = [];
  const say = (kind: DifferenceKind, message: string) => found.push({ ...base, kind, message });
  const isProcessed =
    stepsOn(source.processing).length > 0 || arrival.ways.some((way) => way.isProcessed || way.isBlended);
  if (abs(cell.gainDb - arrival.gainDb) > (isProcessed ? PROCESSED_DB : LEVEL_DB))
    say(
      'level',
      `${source.name} is in ${place} at ${gainText(cell.gainDb)} dB, not at ${gainText(arrival.gainDb)} dB.`,
    );
  const copies = isProcessed ? null : separateCopies(arrival);
  if (copies !== null && copies !== cell.copies)
    say(
      'copies',
      `${source.name} arrives in ${place} ${times(cell.copies)}, and in the setup ${times(copies)}.`,
    );
  const computedMs = arrival.delayMs - firstMs;
  if (copies === 1 && cell.copies === 1 && abs(cell.delayMs - computedMs) > LATE_MS)
    say(
      'late',
      `${source.name} is in ${place} ${cell.delayMs.toFixed(1)} ms later than where it comes first, and in the setup ${computedMs.toFixed(1)} ms.`,
    );
  const [way, ...others] = arrival.ways;
  // The polarity of a loudspeaker in front of a microphone is not known.
  if (copies === 1 && cell.copies === 1 && others.length === 0 && source.kind !== 'microphone') {
    const computed = signOf(source.processing) * signOf(way.processing);
    if (cell.channels === 'one side inverted' && !isProcessed)
      say(
        'sides',
        `${source.name} is in ${place} with one side inverted: ${track.layout === 'mono' ? '' : 'heard in mono, '}what both sides share is gone.`,
      );
    else if (cell.channels !== 'one side inverted' && cell.polarity !== computed)
      say(
        'polarity',
        `${source.name} is in ${place} with ${cell.polarity < 0 ? 'inverted' : 'normal'} polarity, and in the setup with ${computed < 0 ? 'inverted' : 'normal'} polarity.`,
      );
  }
  if (cell.channels === 'swapped' || cell.channels === 'left only' || cell.channels === 'right only')
    if (track.layout === 'stereo')
      say(
        'sides',
        `${source.name} is in ${place} with ${cell.channels === 'swapped' ? 'its sides swapped' : `its ${cell.channels.split(' ')[0]} side alone`}.`,
      );
  return found;
}

/** How many copies can be told apart; null where that cannot be said of the paths alone. */
function separateCopies(arrival: Arrival): number | null {
  const times = arrival.paths.map(({ delayMs }) => delayMs).sort((a, b) => a - b);
  const distinct = times.filter((ms, i) => i === 0 || ms - times[i - 1] > ONE_MS);
  if (distinct.length !== new Set(times).size) return null;
  return distinct.length;
}

function times(count: number): string {
  return count === 1 ? 'once' : count === 2 ? 'twice' : `${count} times`;
}

/** What may let a test sound not pass: a gate or noise reduction on its way. */
function swallowers(setup: Setup, reach: Reach, source: Source): string | null {
  const has = (processing: Source['processing']) =>
    processing?.some(({ does, off }) => !off && (does === 'gate' || does === 'noise reduction')) ?? false;
  if (has(source.processing)) return `the gate or noise reduction of ${source.name}`;
  const pickup = setup.pickups.find(
    ({ id, processing }) => has(processing) && reach.sourcesAt(id).includes(source.id),
  );
  return pickup ? `the gate or noise reduction of ${pickupName(setup, pickup.id)}` : null;
}
