import { type Destination, trackLimitOf } from '../reach/destinations.ts';
import { channelWords } from '../reach/graph.ts';
import { intentOf } from '../reach/intent.ts';
import { type Arrival, AUDIBLE_DB, OFF_LEVEL_DB, type Reach, reachOf, volumeDb } from '../reach/reach.ts';
import { type ClearanceUse, isCleared } from '../setup/clearance.ts';
import type { Setup, Source } from '../setup/schema.ts';
import { gainText, listed } from '../setup/words.ts';
import { chainFindings, chainFindingsOfSource, whereItStops } from './chainFindings.ts';
import {
  FINDING_CODES,
  type Finding,
  type FindingCode,
  finding,
  placeName,
  type Severity,
  type Survey,
} from './finding.ts';

/** A sentence names as many tracks and sources at most. */
const MOST_SHARED = 4;
const MOST_NAMED = 6;

const SEVERITIES: Severity[] = ['stop', 'warn', 'note'];

/**
 * Returns every finding of the setup, the gravest first. `today` (`YYYY-MM-DD`) decides which clearances have
 * expired. Pass the reach along when it is already known.
 */
export function findingsOf(setup: Setup, today: string, reach: Reach = reachOf(setup)): Finding[] {
  const byRank: Finding[][] = [];
  for (const finding of eachFinding(setup, today, reach)) {
    const rank = rankOf(finding);
    const others = byRank[rank];
    if (others) others.push(finding);
    else byRank[rank] = [finding];
  }
  return byRank.flat();
}

/** Looks for the findings one after the other, in no order, so that a search may end early. */
export function* eachFinding(
  setup: Setup,
  today: string,
  reach: Reach = reachOf(setup),
): Generator<Finding, void, undefined> {
  const survey = surveyOf(setup, today, reach);
  for (const source of setup.sources) yield* sourceFindings(survey, source);
  yield* setupFindings(survey);
  yield* chainFindings(survey);
}

/**
 * Tells whether a finding still stands in another setup: much faster than looking for all, for those that are about one
 * source.
 */
export function stillStands(setup: Setup, today: string, { id, code, source: sourceId }: Finding): boolean {
  const source = setup.sources.find((one) => one.id === sourceId);
  const isAlone = source && SOURCE_CODES.has(code);
  const survey = surveyOf(setup, today, reachOf(setup, { source: isAlone ? source.id : undefined }));
  if (isAlone)
    return [...sourceFindings(survey, source), ...chainFindingsOfSource(survey, source)].some(
      (one) => one.id === id,
    );
  return findingsOf(setup, today, survey.reach).some((one) => one.id === id);
}

/** The findings that are looked for source by source, and depend on no other source. */
const SOURCE_CODES = new Set<FindingCode>([
  'leak.live',
  'leak.vod',
  'leak.upload',
  'echo.party',
  'echo.self',
  'missing',
  'off-level',
  'swallowed',
  'doubled',
  'unwanted',
  'on-default',
  'player-volume',
  'double-processing',
]);

function surveyOf(setup: Setup, today: string, reach: Reach): Survey {
  return { setup, reach, intent: intentOf(setup), today, onEditTracks: editTracksOf(setup, reach) };
}

const RANKS = new Map(FINDING_CODES.map((code, index) => [code, index]));

function rankOf({ severity, code }: Finding): number {
  return SEVERITIES.indexOf(severity) * 100 + (RANKS.get(code) ?? 0);
}

function* sourceFindings(survey: Survey, source: Source): Generator<Finding> {
  for (const destination of survey.reach.destinations) {
    const arrival = survey.reach.at(source.id, destination.id);
    if (arrival) yield* arrivalFindings(survey, source, destination, arrival);
    else yield* hiddenFindings(survey, source, destination);
    const missing = missingFinding(survey, source, destination, arrival);
    if (missing) yield missing;
  }
  const alone = noOwnTrack(survey, source);
  if (alone) yield alone;
}

/** Says a level within a sentence: "at −12.0 dB". */
function atLevel(gainDb: number): string {
  return Math.abs(gainDb) < 0.05 ? 'at full level (0.0 dB)' : `at ${gainText(gainDb)} dB`;
}

function* arrivalFindings(
  survey: Survey,
  source: Source,
  destination: Destination,
  arrival: Arrival,
): Generator<Finding> {
  const { today, intent } = survey;
  const about = { source: source.id, destination: destination.id, arrivals: [arrival] };
  const level = () => atLevel(arrival.gainDb);
  const track = destination.track;
  const leaks = (use: ClearanceUse) => !isCleared(source.clearance, use, today);
  let leaked = false;

  if (track?.uses.includes('live') && leaks('live')) {
    leaked = true;
    yield finding(
      'leak.live',
      'stop',
      () => `${source.name} arrives at the live broadcast ${level()}, and is not cleared for live.`,
      about,
    );
  }
  if (track?.uses.includes('vod') && leaks('vod')) {
    leaked = true;
    yield finding(
      'leak.vod',
      'stop',
      () => `${source.name} stays in the VOD ${level()}, and is not cleared for the VOD.`,
      about,
    );
  }
  if (track?.purpose === 'publish' && leaks('upload')) {
    leaked = true;
    yield finding(
      'leak.upload',
      'stop',
      () =>
        `${source.name} is in track ${destination.trackNumber}, “${track.name}”, ${level()}; that track is for publishing, and ${source.name} is not cleared for upload.`,
      about,
    );
  }
  if (leaked) return;
  if (intent.at(source.id, destination.id) === null) {
    yield finding(
      'unwanted',
      'warn',
      () => `${source.name} arrives at ${placeName(destination)} ${level()}, but is not wanted there.`,
      about,
    );
  } else if (isOff(source, arrival, intent.at(source.id, destination.id))) {
    const wantedDb = intent.at(source.id, destination.id) ?? 0;
    const by = arrival.gainDb - wantedDb;
    yield finding(
      'off-level',
      'warn',
      () =>
        `${source.name} arrives at ${placeName(destination)} ${level()}; it is wanted ${atLevel(wantedDb)}, so it is ${Math.abs(by).toFixed(0)} dB too ${by > 0 ? 'loud' : 'quiet'}.`,
      about,
    );
  } else if (track?.purpose === 'edit' && leaks('edit')) {
    yield finding(
      'unwanted',
      'warn',
      () => `${source.name} is on the edit track “${track.name}” ${level()}, but is not cleared for editing.`,
      about,
    );
  }
}

/**
 * Tells whether a sound that is heard is so far off its wish that somebody will say so. What an app's own volume takes away, and
 * what copies add, is told by findings of their own.
 */
function isOff(source: Source, { gainDb, doubling }: Arrival, wantedDb: number | null): boolean {
  if (wantedDb === null || doubling || Math.min(wantedDb, gainDb) < AUDIBLE_DB) return false;
  const off = gainDb - wantedDb;
  return Math.abs(off) >= OFF_LEVEL_DB && Math.abs(off - volumeDb(source)) >= OFF_LEVEL_DB;
}

/** What a fold-down leaves out is in the file all the same: a track for publishing takes it along. */
function* hiddenFindings(
  { reach, today }: Survey,
  source: Source,
  { id, track, trackNumber }: Destination,
): Generator<Finding> {
  if (track?.layout !== 'multichannel' || track.purpose !== 'publish') return;
  const arrival = reach.onTrack(source.id, track.id);
  if (!arrival || isCleared(source.clearance, 'upload', today)) return;
  yield finding(
    'leak.upload',
    'stop',
    `${source.name} is on ${channelWords(arrival.channels)} of track ${trackNumber}, “${track.name}”, ${atLevel(arrival.gainDb)}; that track is for publishing, and ${source.name} is not cleared for upload.`,
    { source: source.id, destination: id, arrivals: [arrival] },
  );
}

function missingFinding(
  survey: Survey,
  source: Source,
  destination: Destination,
  arrival: Arrival | null,
): Finding | null {
  const wanted = survey.intent.at(source.id, destination.id);
  if (wanted === null || (arrival && arrival.gainDb >= AUDIBLE_DB)) return null;
  const onAir = destination.kind === 'live' || destination.kind === 'vod';
  const why = () =>
    arrival
      ? `it arrives ${atLevel(arrival.gainDb)}, too quiet to be heard`
      : destination.feedId === null
        ? `no track has the use ${destination.kind === 'vod' ? 'VOD' : destination.kind}`
        : (whereItStops(survey.setup, survey.reach, source) ??
          (hearsDevices(survey.setup, destination)
            ? `nothing leads from it to what ${destination.name} can hear`
            : 'its send is closed'));
  return finding(
    'missing',
    onAir ? 'stop' : 'warn',
    () => `${source.name} is wanted at ${placeName(destination)} but does not arrive: ${why()}.`,
    {
      source: source.id,
      destination: destination.id,
      arrivals: arrival ? [arrival] : [],
    },
  );
}

function hearsDevices(setup: Setup, { id }: Destination): boolean {
  return (setup.destinations.find((one) => one.id === id)?.hears?.length ?? 0) > 0;
}

function editTracksOf(setup: Setup, reach: Reach): Map<Destination, Source[]> {
  const tracks = reach.destinations.filter(
    ({ track }) => track?.purpose === 'edit' && track.uses.includes('file'),
  );
  return new Map(
    tracks.map((track) => [track, setup.sources.filter((source) => reach.at(source.id, track.id))]),
  );
}

/** Tells whether two sources share a channel of a track; on a mono or stereo track they always do. */
function meet(reach: Reach, one: Source, other: Source, { id, track }: Destination): boolean {
  if (track?.layout !== 'multichannel') return true;
  const [mine, theirs] = [one, other].map((source) => reach.at(source.id, id)?.channels ?? []);
  return mine.some((channel) => theirs.includes(channel));
}

function noOwnTrack({ reach, today, onEditTracks }: Survey, source: Source): Finding | null {
  if (source.ownTrack === false || !isCleared(source.clearance, 'edit', today)) return null;
  const shared: { place: Destination; others: Source[]; arrival: Arrival }[] = [];
  for (const [place, sources] of onEditTracks) {
    const arrival = reach.at(source.id, place.id);
    if (!arrival || arrival.gainDb < AUDIBLE_DB) continue;
    const others = sources.filter((other) => other !== source && meet(reach, source, other, place));
    if (others.length === 0) return null;
    shared.push({ place, others, arrival });
  }
  const why = () =>
    shared.length === 0
      ? 'it is on no edit track'
      : shared
          .slice(0, MOST_SHARED)
          .map(({ place, others }) => `on “${place.name}” it is together with ${namesOf(others)}`)
          .join('; ') +
        (shared.length > MOST_SHARED ? `; and so on ${shared.length - MOST_SHARED} more` : '');
  return finding(
    'no-own-track',
    'warn',
    () => `${source.name} has no track of its own, so it cannot be edited apart: ${why()}.`,
    { source: source.id, arrivals: shared.map(({ arrival }) => arrival) },
  );
}

function namesOf(sources: Source[]): string {
  return listed(
    sources.map(({ name }) => name),
    MOST_NAMED,
  );
}

function* setupFindings({ setup }: Survey): Generator<Finding> {
  const limit = trackLimitOf(setup);
  if (setup.tracks.length > limit) {
    const beyond = setup.tracks.slice(limit).map((track) => `“${track.name}”`);
    yield finding(
      'track-limit',
      'stop',
      `The sheet has ${setup.tracks.length} tracks, but the recorder has ${limit}: ${beyond.join(', ')} would not be recorded.`,
    );
  }
  for (const use of ['live', 'vod'] as const) {
    const word = use === 'vod' ? 'VOD' : 'live';
    const tracks = setup.tracks.filter((track) => track.uses.includes(use));
    const destination = setup.destinations.find((one) => one.kind === use);
    const wanted = destination && setup.intent.some((wish) => wish.destination === destination.id);
    if (tracks.length > 1) {
      const names = tracks.map((track) => `“${track.name}”`).join(' and ');
      yield finding(
        'uses',
        'stop',
        `${names} both have the use ${word}; only one track can be the ${word} one.`,
        { detail: use },
      );
    } else if (tracks.length === 0 && wanted) {
      yield finding(
        'uses',
        'stop',
        `Sounds are wanted at ${destination.name}, but no track has the use ${word}.`,
        {
          destination: destination.id,
          detail: use,
        },
      );
    }
  }
  const vodTrack = setup.tracks.find((track) => track.uses.includes('vod'));
  if (setup.recorder.recordVod && vodTrack && !vodTrack.uses.includes('file')) {
    yield finding(
      'uses',
      'warn',
      `The VOD is to be in the local file as well, but “${vodTrack.name}” is not recorded.`,
      {
        detail: 'record-vod',
      },
    );
  }
  for (const track of setup.tracks.filter((one) => one.uses.length === 0)) {
    yield finding(
      'uses',
      'note',
      `Track “${track.name}” has no use: it is neither live, nor VOD, nor in the file.`,
      {
        destination: track.id,
        detail: 'idle',
      },
    );
  }
}
