import { joinedPortions } from '../../core/audio/planes.ts';
import { calibrate } from '../../core/measure/calibrate.ts';
import { withFft } from '../../core/measure/fft.ts';
import { type Relation, RelationMeter } from '../../core/measure/relations.ts';
import { type SoundMeasures, SoundMeter } from '../../core/measure/soundMeter.ts';
import { type TrackStats, TrackStatsMeter } from '../../core/measure/trackStats.ts';
import { toMono } from '../../core/signal/mono.ts';
import { AudioFile, type AudioTrackInfo } from './audioFile.ts';
import { pass } from './pass.ts';
import { STEM_RATE, Stem } from './stem.ts';

/** What one track of a recording carries, as it seems, and why. */
export interface Proposal {
  track: number;
  role: 'silent' | 'mix' | 'voice' | 'game' | 'music' | 'voice chat' | 'alerts' | 'unknown';
  /** 0 to 1. */
  sureness: number;
  because: string;
}

export interface InspectedTrack extends AudioTrackInfo, SoundMeasures, TrackStats {
  /** Mains hum that stands out; null where none does. */
  hum: { hz: 50 | 60; overDb: number } | null;
}

export interface InspectedTracks {
  tracks: InspectedTrack[];
  relations: Relation[];
  proposals: Proposal[];
}

/** Hum is looked for in this much of a track from its start (s). */
const HUM_S = 120;

/**
 * Reads all tracks of a recording once, in step, and measures each, and how they go together.
 * @throws {MediaError} when it does not decode
 */
export async function inspectTracks(
  path: string,
  onProgress: (share: number) => void = () => {},
): Promise<InspectedTracks> {
  const file = await AudioFile.open(path, { allowCut: true });
  const stems = file.tracks.map(({ index }) => Stem.of(file, index));
  const meters = file.tracks.map(({ channels }) => ({
    sound: new SoundMeter(STEM_RATE, Math.min(2, channels)),
    stats: new TrackStatsMeter(STEM_RATE, Math.min(2, channels)),
    beginning: [] as Float32Array[],
  }));
  const relations = new RelationMeter(stems.length);
  let done = 0;
  try {
    const frames = await pass(
      stems,
      (planes, count) => {
        const monos = planes.map(([left, right]) =>
          toMono([left.subarray(0, count), right.subarray(0, count)]),
        );
        relations.add(monos, count);
        meters.forEach(({ sound, stats, beginning }, at) => {
          sound.add(planes[at], count);
          stats.add(planes[at], count);
          if (done < HUM_S * STEM_RATE) beginning.push(monos[at]);
        });
        done += count;
      },
      { onProgress },
    );
    const tracks = await withFft((makeFft) =>
      file.tracks.map((info, at): InspectedTrack => {
        const { sound, stats, beginning } = meters[at];
        const found = sound.result();
        const start = joinedPortions(beginning);
        const hum = found.integratedLufs === null ? null : calibrate(makeFft, start).hum;
        return { ...info, durationS: frames / STEM_RATE, ...found, ...stats.result(), hum };
      }),
    );
    const related = relations.result();
    return { tracks, relations: related, proposals: proposalsOf(tracks, related) };
  } finally {
    await Promise.all(stems.map((stem) => stem.close()));
    file.close();
  }
}

/** Words of track names, and what they stand for. */
const ROLE_WORDS: [RegExp, Proposal['role']][] = [
  [/\b(chat|friends?|call|discussion|team|party|guests?)\b/i, 'voice chat'],
  [/\b(mic|microphone|voice|voix|vocals?|narrator|commentary)\b/i, 'voice'],
  [/\b(music|records?|songs?|tunes?)\b/i, 'music'],
  [/\b(game|desktop)\b/i, 'game'],
  [/\b(alerts?|bells?|notifications?)\b/i, 'alerts'],
  [/\b(mix|master|live|vod|stream|all|main)\b/i, 'mix'],
];

function proposalsOf(tracks: InspectedTrack[], relations: Relation[]): Proposal[] {
  return tracks.map((track, at): Proposal => {
    if (track.silentShare > 0.999)
      return { track: at, role: 'silent', sureness: 1, because: 'nothing sounds on it' };
    const sum = relations.find((one) => one.kind === 'sum' && one.track === at);
    if (sum?.kind === 'sum')
      return {
        track: at,
        role: 'mix',
        sureness: 0.95,
        because: `it is the sum of tracks ${sum.of.map((part) => part.track + 1).join(', ')}`,
      };
    const named = ROLE_WORDS.find(([words]) => words.test(track.name ?? ''));
    if (named) return { track: at, role: named[1], sureness: 0.7, because: `it is called “${track.name}”` };
    return speechLike(track)
      ? { track: at, role: 'voice', sureness: 0.4, because: 'it has pauses and one channel, as speech has' }
      : { track: at, role: 'unknown', sureness: 0, because: 'neither its name nor its sound says' };
  });
}

/** Speech pauses, and is mono; music and games go on and are stereo. */
function speechLike({ sides, silentShare, noiseFloorDb, integratedLufs }: InspectedTrack): boolean {
  const pauses = silentShare > 0.15 || (integratedLufs ?? 0) - (noiseFloorDb ?? 0) > 25;
  return (sides === 'two alike' || sides === 'one channel') && pauses;
}
