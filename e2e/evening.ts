import { execFileSync } from 'node:child_process';

/**
 * A recording as somebody makes it, written by Debian's ffmpeg: a picture, a mix for the stream, a voice, the music. The music lies in the
 * mix, 20 dB down, from the 12th second to ten seconds before the end.
 */
export function writeEvening(path: string, seconds = 40): void {
  const song = 'sin(2*PI*t*(220+110*floor(mod(t*1.7,5))))*exp(-3*mod(t*1.7,1))';
  const parts = [
    `testsrc=size=320x180:rate=25:duration=${seconds}[v]`,
    `anoisesrc=duration=${seconds}:seed=1:amplitude=0.3:sample_rate=48000,volume='0.2+0.8*gt(mod(t,3),1.5)':eval=frame,asplit=2[mic][m]`,
    `aevalsrc='0.4*${song}|0.3*${song}':duration=${seconds}:sample_rate=48000[tune]`,
    `anoisesrc=duration=${seconds}:seed=2:amplitude=0.05:sample_rate=48000,aformat=channel_layouts=stereo[hiss]`,
    '[tune][hiss]amix=inputs=2:normalize=0,asplit=2[music][r]',
    `[r]volume='0.1*between(t,12,${seconds - 10})':eval=frame[leak]`,
    '[m]aformat=channel_layouts=stereo[wide]',
    '[wide][leak]amix=inputs=2:normalize=0[mix]',
  ];
  const args = ['-v', 'error', '-y', '-filter_complex', parts.join(';'), '-map', '[v]'];
  for (const track of ['mix', 'mic', 'music']) args.push('-map', `[${track}]`);
  for (const [at, title] of ['Stream', 'Mic', 'Music'].entries())
    args.push(`-metadata:s:a:${at}`, `title=${title}`);
  args.push('-c:v', 'libx264', '-preset', 'ultrafast', '-c:a', 'aac', '-b:a', '160k', path);
  execFileSync('ffmpeg', args);
}
