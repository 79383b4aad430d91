import { type ClearancePreset, clearanceOf } from '../setup/clearance.ts';
import type { SOURCE_KINDS, Track } from '../setup/schema.ts';
import { listed } from '../words/figures.ts';

/** A source as it is named when a setup is started from nothing. The order of a list of them is their priority. */
export interface PlannedSource {
  name: string;
  kind: (typeof SOURCE_KINDS)[number];
  preset: ClearancePreset;
  /** Sources of the same app come out of it together. */
  app?: string;
}

/** What the recording is for. */
export interface Aims {
  live: boolean;
  vod: boolean;
  upload: boolean;
  /** Tracks that the recorder has. */
  tracks: number;
}

/** A track of the plan: which sources are on it, by their place in the list. */
export interface PlannedTrack {
  name: string;
  uses: Track['uses'];
  purpose: Track['purpose'];
  sources: number[];
}

export interface TrackPlan {
  tracks: PlannedTrack[];
  /** Why it came out like this, in sentences. */
  reasons: string[];
}

/**
 * Lays out the track sheet: live and VOD first, then the upload mix, then a track for each source that may be edited, by
 * priority. No clearance is ever broken. Uses share a track where what may be on them is the same and tracks are short.
 * With more sources than tracks the ones of the lowest priority share the last track: of all ways to fit them in, this is
 * the one in which the fewest share, and the least important ones (a test compares it with every other way).
 */
export function planTracks(sources: PlannedSource[], aims: Aims): TrackPlan {
  const units = unitsOf(sources);
  const onAir = mixes(sources, aims, units.length);
  const room = Math.max(0, aims.tracks - onAir.tracks.length);
  const alone = units.length <= room ? units : units.slice(0, Math.max(0, room - 1));
  const shared = room === 0 ? [] : units.slice(alone.length);
  const left = room === 0 ? units : [];
  const tracks: PlannedTrack[] = [
    ...onAir.tracks,
    ...alone.map((unit) => ({
      name: nameOfUnit(sources, unit),
      uses: ['file' as const],
      purpose: 'edit' as const,
      sources: unit,
    })),
    ...(shared.length > 0
      ? [{ name: 'The rest', uses: ['file' as const], purpose: 'edit' as const, sources: shared.flat() }]
      : []),
  ];
  const reasons = [...onAir.reasons];
  for (const unit of units.filter((one) => one.length > 1))
    reasons.push(
      `${names(sources, unit)} come out of one app, ${sources[unit[0]].app}, and cannot be told apart: they share a track.`,
    );
  if (shared.length > 0)
    reasons.push(
      `${names(sources, shared.flat())} share the last track: ${units.length} want one of their own and ${room} ${room === 1 ? 'is' : 'are'} left, so those lowest in your list were put together. ${whatFrees(onAir.tracks, shared.length - 1)}`,
    );
  if (left.length > 0)
    reasons.push(
      `No track is left for ${names(sources, left.flat())}. ${whatFrees(onAir.tracks, left.length)}`,
    );
  const kept = sources.flatMap((source, index) => (clearanceOf(source.preset).edit ? [] : [index]));
  if (kept.length > 0)
    reasons.push(
      `${names(sources, kept)} may be kept nowhere: only your headphones get ${kept.length === 1 ? 'it' : 'them'}.`,
    );
  return { tracks, reasons };
}

/** The sources that may be edited, those of one app together, in order of priority. */
function unitsOf(sources: PlannedSource[]): number[][] {
  const units: number[][] = [];
  sources.forEach((source, index) => {
    if (!clearanceOf(source.preset).edit) return;
    const known = units.find(([first]) => source.app !== undefined && sources[first].app === source.app);
    if (known) known.push(index);
    else units.push([index]);
  });
  return units;
}

/** The tracks that are heard by others. Uses share one only where tracks are short and the same sounds may be on both. */
function mixes(
  sources: PlannedSource[],
  aims: Aims,
  wanted: number,
): { tracks: PlannedTrack[]; reasons: string[] } {
  const cleared = (use: 'live' | 'vod' | 'upload') =>
    sources.flatMap((source, index) => (clearanceOf(source.preset)[use] ? [index] : []));
  const [live, vod, upload] = [cleared('live'), cleared('vod'), cleared('upload')];
  const separate = Number(aims.live) + Number(aims.vod) + Number(aims.upload);
  const isShort = separate + wanted > aims.tracks;
  const reasons: string[] = [];
  const tracks: PlannedTrack[] = [];
  const both = aims.live && aims.vod && isShort && same(live, vod);
  if (aims.live)
    tracks.push({
      name: both ? 'Live and VOD mix' : 'Live mix',
      uses: both ? ['live', 'vod', 'file'] : ['live'],
      purpose: 'reference',
      sources: live,
    });
  if (both) reasons.push('Live and VOD share a track: the same sounds may be on both, and a track is saved.');
  if (aims.vod && !both) {
    const isUpload = aims.upload && isShort && same(vod, upload);
    tracks.push({
      name: isUpload ? 'VOD and upload mix' : 'VOD mix',
      uses: ['vod', 'file'],
      purpose: isUpload ? 'publish' : 'reference',
      sources: vod,
    });
    const kept = live.filter((index) => !vod.includes(index));
    if (aims.live && kept.length > 0)
      reasons.push(`The VOD has a track of its own, since ${names(sources, kept)} may go live but not stay.`);
    if (isUpload) reasons.push('VOD and upload share a track: the same sounds may be on both.');
  }
  if (aims.upload && !tracks.some((track) => track.purpose === 'publish')) {
    tracks.push({ name: 'Upload mix', uses: ['file'], purpose: 'publish', sources: upload });
    const kept = sources.flatMap((_, index) => (upload.includes(index) ? [] : [index]));
    if (kept.length > 0)
      reasons.push(`The upload mix leaves out ${names(sources, kept)}: not cleared for it.`);
  }
  return { tracks: tracks.slice(0, aims.tracks), reasons };
}

function whatFrees(onAir: PlannedTrack[], count: number): string {
  const upload = onAir.find((track) => track.name === 'Upload mix');
  const ways = [
    `raise the recorder’s limit by ${count}`,
    ...(upload ? ['do without an upload mix (mix it in the edit)'] : []),
    'let a sound that needs no cutting have no track of its own',
  ];
  return `To free ${count === 1 ? 'a track' : 'tracks'}: ${ways.join(', or ')}.`;
}

function nameOfUnit(sources: PlannedSource[], unit: number[]): string {
  return unit.length > 1 ? (sources[unit[0]].app ?? sources[unit[0]].name) : sources[unit[0]].name;
}

function names(sources: PlannedSource[], indexes: number[]): string {
  return listed(indexes.map((index) => sources[index].name)) || 'nothing';
}

function same(one: number[], other: number[]): boolean {
  return one.length === other.length && one.every((value, index) => value === other[index]);
}
