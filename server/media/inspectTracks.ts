import { joinedPortions } from '../../core/audio/planes.ts';
import { proposalsOf } from '../../core/check/proposals.ts';
import type { InspectedTrack, InspectedTracks } from '../../core/check/recording.ts';
import { calibrate } from '../../core/measure/calibrate.ts';
import { DoublingMeter } from '../../core/measure/doubling.ts';
import { withFft } from '../../core/measure/fft.ts';
import { RelationMeter } from '../../core/measure/relations.ts';
import { SoundMeter } from '../../core/measure/soundMeter.ts';
import { TrackStatsMeter } from '../../core/measure/trackStats.ts';
import { toMono } from '../../core/signal/mono.ts';
import { AudioFile } from './audioFile.ts';
import { breakOffOf } from './breakOff.ts';
import { pass } from './pass.ts';
import { STEM_RATE, Stem } from './stem.ts';

/** Hum is looked for in this much of a track from its start (s). */
const HUM_S = 120;
/** Hum is told from low notes in pauses: where the quietest tenth lies this far below the loudness (dB). */
const PAUSES_DB = 20;
/** Outlines are drawn with so many values at most. */
const OUTLINE_VALUES = 1200;

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
    return await withFft(async (makeFft) => {
      const doublings = stems.map(() => new DoublingMeter(makeFft));
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
            doublings[at].add(monos[at]);
            if (done < HUM_S * STEM_RATE) beginning.push(monos[at]);
          });
          done += count;
        },
        { onProgress },
      );
      const tracks = file.tracks.map((info, at): InspectedTrack => {
        const { sound, stats, beginning } = meters[at];
        const found = sound.result();
        const start = joinedPortions(beginning);
        const counted = stats.result();
        const hasPauses =
          found.integratedLufs !== null && found.integratedLufs - (counted.noiseFloorDb ?? 0) > PAUSES_DB;
        return {
          ...info,
          durationS: frames / STEM_RATE,
          ...found,
          ...counted,
          hum: hasPauses ? calibrate(makeFft, start).hum : null,
          doubling: doublings[at].result(),
          outline: stats.outline(OUTLINE_VALUES),
        };
      });
      const related = relations.result();
      const promisedS = Math.max(...file.tracks.map(({ durationS }) => durationS));
      const breakOff = await breakOffOf(path, promisedS, frames / STEM_RATE);
      return { tracks, relations: related, proposals: proposalsOf(tracks, related), breakOff };
    });
  } finally {
    await Promise.all(stems.map((stem) => stem.close()));
    file.close();
  }
}
