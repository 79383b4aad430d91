import type { Destination } from '../../reach/destinations.ts';
import { type Arrival, AUDIBLE_DB, OFF_LEVEL_DB, volumeDb } from '../../reach/reach.ts';
import { forbiddenUses } from '../../setup/clearance.ts';
import type { Source } from '../../setup/schema.ts';
import { levelWords } from '../../words/figures.ts';
import { type Finding, finding, placeName } from '../finding.ts';
import { areHeardAsCopies } from '../limits.ts';
import { cellsOf, hearsDevices, type InScenes, inScenesText, type Survey, scenesOfAll } from '../survey.ts';
import { whereItStops } from '../whereItStops.ts';

/** What arrives beside what is wanted: missing, silent in a scene, off its level, or not wanted at all. */
export function* wishes(survey: Survey): Generator<Finding> {
  for (const { source, destination } of cellsOf(survey)) {
    const { track } = destination;
    if (track && forbiddenUses(source.clearance, track, survey.today).length > 0) continue;
    const wishDb = survey.intent.at(source.id, destination.id);
    const groups = survey.inScenes(source, destination);
    const heard = groups.filter(({ arrival }) => arrival !== null);
    if (wishDb === null) {
      if (heard.length > 0) yield unwanted(survey, source, destination, heard);
      continue;
    }
    const audible = groups.filter(
      ({ arrival }) => arrival && (arrival.gainDb >= AUDIBLE_DB || wishDb < AUDIBLE_DB),
    );
    if (audible.length === 0) yield missing(survey, source, destination, heard[0]?.arrival ?? null);
    else yield* sceneGaps(survey, source, destination, groups, audible);
    const off = audible.filter(({ arrival }) => arrival && isOff(source, arrival, wishDb));
    if (off.length > 0) yield offLevel(survey, source, destination, wishDb, off);
  }
}

/** Every wanted sound whose level is off its wish by so many dB or more, however little that is noticed. */
export function* levelsOff(survey: Survey, fromDb: number): Generator<Finding> {
  for (const { source, destination } of cellsOf(survey)) {
    const wishDb = survey.intent.at(source.id, destination.id);
    if (wishDb === null) continue;
    const off = survey
      .inScenes(source, destination)
      .filter(({ arrival }) => arrival && Math.abs(arrival.gainDb - wishDb) >= fromDb);
    if (off.length > 0) yield offLevel(survey, source, destination, wishDb, off);
  }
}

function unwanted(survey: Survey, source: Source, destination: Destination, heard: InScenes[]): Finding {
  const arrival = heard[0].arrival as Arrival;
  const scenes = scenesOfAll(survey, heard);
  return finding(
    'unwanted',
    'warn',
    () =>
      `${inScenesText(survey, scenes)}${source.name} arrives at ${placeName(destination)} ${levelWords(arrival.gainDb)}, and you do not want it there.`,
    { source: source.id, destination: destination.id, arrivals: [arrival], scenes },
  );
}

function missing(survey: Survey, source: Source, destination: Destination, arrival: Arrival | null): Finding {
  const why = () => {
    if (arrival) return `it arrives ${levelWords(arrival.gainDb)}, too quiet to be heard`;
    if (destination.sendTo === null)
      return `no track has the use ${destination.kind === 'vod' ? 'VOD' : destination.kind}`;
    const stops = whereItStops(survey.setup, survey.reach, source, destination);
    if (stops) return stops;
    return hearsDevices(survey.setup, destination)
      ? `nothing brings it to what ${destination.name} can hear`
      : 'its send is closed';
  };
  return finding(
    'missing',
    severityAt(destination),
    () => `You want ${source.name} at ${placeName(destination)}, and it does not arrive: ${why()}.`,
    { source: source.id, destination: destination.id, arrivals: arrival ? [arrival] : [] },
  );
}

/** One finding for each scene in which a source is silent that is heard in others. */
function* sceneGaps(
  survey: Survey,
  source: Source,
  destination: Destination,
  groups: InScenes[],
  audible: InScenes[],
): Generator<Finding> {
  for (const { scenes } of groups.filter((one) => !audible.includes(one)))
    for (const scene of scenes ?? [])
      yield finding(
        'scene-gap',
        severityAt(destination),
        () =>
          `${inScenesText(survey, [scene])}${source.name} is silent at ${placeName(destination)}: its pickup does not sound there.`,
        { source: source.id, destination: destination.id, detail: scene, scenes: [scene] },
      );
}

function severityAt({ kind }: Destination): 'stop' | 'warn' {
  return kind === 'live' || kind === 'vod' ? 'stop' : 'warn';
}

function offLevel(
  survey: Survey,
  source: Source,
  destination: Destination,
  wishDb: number,
  off: InScenes[],
): Finding {
  const arrival = off[0].arrival as Arrival;
  const byDb = arrival.gainDb - wishDb;
  const scenes = scenesOfAll(survey, off);
  return finding(
    'off-level',
    'warn',
    () =>
      `${inScenesText(survey, scenes)}${source.name} arrives at ${placeName(destination)} ${levelWords(arrival.gainDb)}. You want it ${levelWords(wishDb)}, so it is ${Math.abs(byDb).toFixed(0)} dB too ${byDb > 0 ? 'loud' : 'quiet'}.`,
    { source: source.id, destination: destination.id, arrivals: [arrival], scenes },
  );
}

/**
 * Tells whether a sound that is heard is so far off its wish that somebody will say so. What an app's own volume takes away, and
 * what copies add, is told by findings of their own.
 */
function isOff(source: Source, arrival: Arrival, wishDb: number): boolean {
  if (areHeardAsCopies(arrival)) return false;
  const off = arrival.gainDb - wishDb;
  return Math.abs(off) >= OFF_LEVEL_DB && Math.abs(off - volumeDb(source)) >= OFF_LEVEL_DB;
}
