import { inspectMedia } from '../server/media/inspectMedia.ts';
import { figure, printJson, printLines } from './print.ts';

/** Measures every audio track of a file and prints the figures. */
export async function loudness(file: string, options: { json?: boolean; allowCut?: boolean }): Promise<void> {
  const { tracks } = await inspectMedia(file, { allowCut: options.allowCut });
  if (options.json) {
    printJson({
      tracks: tracks.map((track) => ({
        index: track.index,
        name: track.name,
        channels: track.channels,
        sampleRate: track.sampleRate,
        durationS: track.durationS,
        integratedLufs: track.integratedLufs,
        loudnessRangeLu: track.loudnessRangeLu,
        maxMomentaryLufs: track.maxMomentaryLufs,
        maxShortTermLufs: track.maxShortTermLufs,
        truePeakDbtp: track.truePeakDbtp,
      })),
    });
    return;
  }
  printLines(
    tracks.map(
      (track) =>
        `${track.index + 1}  ${track.name ?? 'unnamed'} (${track.codec}, ${track.channels} ch, ${track.sampleRate} Hz, ${track.durationS.toFixed(1)} s): ` +
        `${figure(track.integratedLufs, 'LUFS')}, range ${figure(track.loudnessRangeLu, 'LU')}, ` +
        `momentary up to ${figure(track.maxMomentaryLufs, 'LUFS')}, short-term up to ${figure(track.maxShortTermLufs, 'LUFS')}, ` +
        `true peak ${figure(track.truePeakDbtp, 'dBTP')}`,
    ),
  );
}
