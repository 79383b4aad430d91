import type { Destination } from '../../reach/destinations.ts';
import { channelWords } from '../../reach/graph.ts';
import type { Arrival } from '../../reach/reach.ts';
import { type ClearanceUse, forbiddenUses } from '../../setup/clearance.ts';
import type { Source } from '../../setup/schema.ts';
import { levelWords } from '../../words/figures.ts';
import { type Finding, type FindingCode, finding } from '../finding.ts';
import { cellsOf, inScenesText, type Survey, scenesOfAll } from '../survey.ts';
import { byAir } from './byAir.ts';

/** What each use of a track is called as a finding. An edit that is forbidden means that the sound must not be kept at all. */
const CODE_OF: Record<ClearanceUse, FindingCode> = {
  live: 'leak.live',
  vod: 'leak.vod',
  upload: 'leak.upload',
  edit: 'in-file',
};

/** A source arrives where its clearance does not allow it: live, in the VOD, in an upload, or in the file at all. */
export function* leaks(survey: Survey): Generator<Finding> {
  for (const { source, destination } of cellsOf(survey)) {
    const { track } = destination;
    if (!track) continue;
    const uses = forbiddenUses(source.clearance, track, survey.today);
    if (uses.length === 0) continue;
    // What may be nowhere on a track is told once, by its gravest use.
    const told = uses.some((use) => use !== 'edit') ? uses.filter((use) => use !== 'edit') : uses;
    const groups = survey.inScenes(source, destination).filter(({ arrival }) => arrival !== null);
    const [first] = groups;
    if (!first?.arrival) {
      yield* hidden(survey, source, destination, told);
      continue;
    }
    const scenes = scenesOfAll(survey, groups);
    const { arrival } = first;
    for (const use of told)
      yield finding(
        CODE_OF[use],
        'stop',
        () =>
          `${inScenesText(survey, scenes)}${sentence(source, destination, use, levelWords(arrival.gainDb))}${byAir(survey, source, destination)}`,
        { source: source.id, destination: destination.id, arrivals: [arrival], scenes },
      );
  }
}

function sentence(
  { name }: Source,
  { track, trackNumber }: Destination,
  use: ClearanceUse,
  level: string,
): string {
  const where = `track ${trackNumber}, “${track?.name}”`;
  switch (use) {
    case 'live':
      return `${name} goes out live ${level}, and is not cleared for live.`;
    case 'vod':
      return `${name} stays in the VOD ${level}, and is not cleared for the VOD.`;
    case 'upload':
      return `${name} is in ${where}, ${level}. You publish that track, and ${name} is not cleared for upload.`;
    case 'edit':
      return `${name} is recorded in ${where}, ${level}, and must not be kept.`;
  }
}

/** A fold-down may leave out what is in the file all the same. */
function* hidden(
  { reach }: Survey,
  source: Source,
  destination: Destination,
  uses: ClearanceUse[],
): Generator<Finding> {
  const { track, trackNumber } = destination;
  const kept = uses.find((use) => use === 'upload' || use === 'edit');
  if (track?.layout !== 'multichannel' || !kept) return;
  const arrival: Arrival | null = reach.onTrack(source.id, track.id);
  if (!arrival) return;
  const where = `${channelWords(arrival.channels)} of track ${trackNumber}, “${track.name}”, ${levelWords(arrival.gainDb)}`;
  const why =
    kept === 'upload'
      ? `You publish that track, and ${source.name} is not cleared for upload.`
      : `${source.name} must not be kept.`;
  yield finding(CODE_OF[kept], 'stop', `${source.name} is on ${where}. ${why}`, {
    source: source.id,
    destination: destination.id,
    arrivals: [arrival],
  });
}
