import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';

/** A kind of recording. */
export interface Kind {
  name: string;
  /** Pictures a second. */
  rate?: string;
  options: string[];
  /** Tracks of sound: their rates (Hz) and channels. */
  sounds?: [rateHz: number, channels: number][];
}

export const H264 = ['-c:v', 'libx264', '-preset', 'ultrafast', '-g', '50', '-c:a', 'aac'];
export const ALIKE: [rateHz: number, channels: number][] = [
  [48_000, 2],
  [48_000, 2],
  [48_000, 1],
];

/** Writes a recording with ffmpeg; its sounds and pictures differ by a seed. */
export function record(
  path: string,
  { rate = '30', options, sounds = ALIKE }: Kind,
  lengthS: number,
  seed: number,
) {
  const picture = `testsrc2=size=160x90:rate=${rate}:duration=${lengthS},noise=alls=${20 + seed}:allf=t`;
  const sound = sounds.map(([rateHz, channels], at) => {
    const noise = `anoisesrc=d=${lengthS}:r=${rateHz}:seed=${10 * seed + at}:a=0.3`;
    return `${noise},tremolo=f=${at + 2},aformat=channel_layouts=${channels}c`;
  });
  const inputs = [picture, ...sound].flatMap((source) => ['-f', 'lavfi', '-i', source]);
  const maps = [picture, ...sound].flatMap((_, at) => ['-map', String(at)]);
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...inputs, ...maps, ...options, path]);
}

/** Where the media of a file begin, with their head, and end. */
export function mediaIn(bytes: Buffer): { at: number; end: number } {
  for (let at = 0; at < bytes.length; ) {
    const length = bytes.readUInt32BE(at);
    if (bytes.toString('latin1', at + 4, at + 8) === 'mdat') return { at, end: at + length };
    at += length;
  }
  throw new Error('no media');
}

/** Cuts a file within its media, as one is left whose program died. */
export function cut(from: string, to: string, share: number, zeros = 0): void {
  const bytes = readFileSync(from);
  const { at, end } = mediaIn(bytes);
  const left = Buffer.from(bytes.subarray(0, at + Math.floor((end - at) * share)));
  left.writeUInt32BE(0, at);
  writeFileSync(to, Buffer.concat([left, Buffer.alloc(zeros)]));
}

export interface Packet {
  pts_time: string;
  data_hash: string;
  flags: string;
}

/** The packets of each track of a file, as ffprobe reads them. */
export function packetsOf(path: string): Packet[][] {
  const wanted = ['-show_entries', 'packet=stream_index,pts_time,flags,data_hash', '-show_data_hash', 'md5'];
  const out = execFileSync('ffprobe', ['-v', 'error', ...wanted, '-of', 'json', path], {
    maxBuffer: 1 << 28,
  });
  const tracks: Packet[][] = [];
  for (const packet of JSON.parse(out.toString()).packets) {
    tracks[packet.stream_index] ??= [];
    tracks[packet.stream_index].push(packet);
  }
  return tracks;
}
