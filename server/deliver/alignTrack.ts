import type { ClockLine } from '../../core/join/clockLine.ts';
import { Retimer } from '../../core/signal/retime.ts';
import { AudioFile } from '../media/audioFile.ts';
import { STEM_RATE } from '../media/stem.ts';
import { losslessly, TakeWriter } from '../media/takeWriter.ts';
import { at48k } from './at48k.ts';

/** A track of a recording (counted from zero), and how its time lies in that of the picture. */
export interface AlignRequest {
  path: string;
  track: number;
  name: string;
  line: Pick<ClockLine, 'offsetS' | 'driftPpm'>;
  /** How long it is to be (s), from the start of the picture on. */
  lengthS: number;
  outPath: string;
}

/** So much is written at a time while nothing is read any more (frames). */
const PORTION = STEM_RATE;

/**
 * Writes a track as FLAC in MKV so that it goes with a picture: moved to its place, and at the pace of the picture’s clock.
 * @throws {MediaError} when it does not decode; {DiskFullError} when there is no room
 */
export async function alignTrack(
  { path, track, name, line, lengthS, outPath }: AlignRequest,
  onProgress: (share: number) => void = () => {},
): Promise<void> {
  const file = await AudioFile.open(path, { allowCut: true });
  const info = file.tracks[track];
  const perSecond = line.driftPpm / 1e6;
  const retimer = new Retimer(info.channels, -line.offsetS * STEM_RATE, 1 - perSecond);
  const inAll = Math.round(lengthS * STEM_RATE);
  let written = 0;
  const portions = at48k(file, track);
  try {
    await TakeWriter.write(outPath, [losslessly(info, name, 'flac')], {}, async (writer) => {
      const write = async (planes: Float32Array[]) => {
        if (planes[0].length === 0) return;
        await writer.add([planes], planes[0].length);
        written += planes[0].length;
        onProgress(Math.min(1, written / inAll));
      };
      for await (const planes of portions) {
        await write(retimer.push(planes, inAll));
        if (written >= inAll) break;
      }
      while (written < inAll) await write(retimer.flush(inAll, PORTION));
    });
  } finally {
    await portions.return();
    file.close();
  }
}
