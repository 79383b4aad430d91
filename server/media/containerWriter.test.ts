import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { EncodedPacket } from 'mediabunny';
import { remux } from '../deliver/remux.ts';
import { writeJoined } from '../deliver/writeJoined.ts';
import { testFolder } from '../testing.ts';
import { ContainerWriter } from './containerWriter.ts';
import { DiskFullError } from './diskFile.ts';
import { prepareMediaLibrary } from './library.ts';
import { repairRecording } from './repairRecording.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);

const PICTURE = ['-f', 'lavfi', '-i', 'testsrc=size=160x90:rate=30000/1001:duration=3'];
const SOUND = ['-f', 'lavfi', '-i', 'sine=frequency=440:sample_rate=48000:duration=3'];
/** Recordings of other programs: by what codes picture and sound, and which containers with an index take both. */
const RECORDINGS: [string, string[], string[]][] = [
  ['avc, aac', ['-c:v', 'libx264', '-bf', '3', '-c:a', 'aac'], ['mp4', 'mov']],
  [
    'avc in a pyramid, aac',
    ['-c:v', 'libx264', '-bf', '8', '-x264-params', 'b-pyramid=normal:ref=8:keyint=10', '-c:a', 'aac'],
    ['mp4', 'mov'],
  ],
  ['hevc, ac3', ['-c:v', 'libx265', '-x265-params', 'log-level=error', '-c:a', 'ac3'], ['mp4', 'mov']],
  ['avc, eac3', ['-c:v', 'libx264', '-c:a', 'eac3'], ['mp4', 'mov']],
  ['avc, mp3', ['-c:v', 'libx264', '-c:a', 'libmp3lame'], ['mp4', 'mov']],
  ['vp9, opus', ['-c:v', 'libvpx-vp9', '-deadline', 'realtime', '-c:a', 'libopus'], ['mp4']],
  ['av1, flac', ['-c:v', 'libaom-av1', '-usage', 'realtime', '-cpu-used', '8', '-c:a', 'flac'], ['mp4']],
  ['avc, vorbis', ['-c:v', 'libx264', '-c:a', 'libvorbis'], ['mp4']],
  ['prores, pcm-s24', ['-c:v', 'prores_ks', '-c:a', 'pcm_s24le'], ['mov']],
  ['avc, pcm-s16', ['-c:v', 'libx264', '-c:a', 'pcm_s16le'], ['mov']],
];

function ffmpeg(args: string[]): string {
  return execFileSync('ffmpeg', ['-v', 'error', '-y', ...args], { encoding: 'utf8' });
}
function hashesOf(name: string): string {
  return ffmpeg(['-i', file(name), '-map', '0', '-c', 'copy', '-f', 'streamhash', '-hash', 'md5', '-']);
}
function probed(name: string, what: string): string {
  const args = ['-v', 'warning', '-show_entries', what, '-of', 'csv=p=0', file(name)];
  return execFileSync('ffprobe', args, { encoding: 'utf8' }).trim();
}

describe('what other programs coded', () => {
  test.each(RECORDINGS)(
    '%s',
    async (name, codecs, containers) => {
      ffmpeg([...PICTURE, ...SOUND, ...codecs, file(`${name}.mkv`)]);
      for (const container of ['mp4', 'mov', 'copy.mkv']) {
        const made = `${name}.${container}`;
        if (container !== 'copy.mkv' && !containers.includes(container)) {
          await expect(remux(file(`${name}.mkv`), file(made))).rejects.toThrow(`.${container} cannot hold`);
          expect(existsSync(file(made))).toBe(false);
          continue;
        }
        await remux(file(`${name}.mkv`), file(made));
        expect(hashesOf(made)).toBe(hashesOf(`${name}.mkv`));
        // Whatever a decoder finds wrong is printed; that Matroska does not say how the channels of PCM are used, with it.
        const decoded = spawnSync('ffmpeg', ['-v', 'warning', '-i', file(made), '-f', 'null', '-']);
        expect(decoded.stderr.toString().replace(/Guessed Channel Layout.*\n/, '')).toBe('');
      }
    },
    60_000,
  );
});

test('AAC that was cut anywhere within its last frames is copied or refused in words', async () => {
  ffmpeg([...SOUND, '-c:a', 'aac', file('whole.aac')]);
  const whole = readFileSync(file('whole.aac'));
  const frameAt = whole.lastIndexOf(whole.subarray(0, 4), whole.length - 500);
  const outcomes = new Set<string>();
  for (let kept = 0; kept < 14; kept++) {
    writeFileSync(file('cut.aac'), whole.subarray(0, frameAt + kept));
    const outcome = await remux(file('cut.aac'), file('cut.mkv')).then(
      () => 'copied',
      (error: Error) => error.name,
    );
    outcomes.add(outcome);
  }
  expect([...outcomes].filter((one) => one !== 'copied' && one !== 'MediaError')).toEqual([]);
}, 30_000);

describe('times', () => {
  beforeAll(() => {
    ffmpeg([...PICTURE, ...SOUND, '-c:v', 'libx264', '-bf', '2', '-c:a', 'aac', file('late.ts')]);
  });

  test('sound that was rounded to milliseconds follows without gaps', async () => {
    ffmpeg([...SOUND, '-c:a', 'aac', file('sound.mkv')]);
    await remux(file('sound.mkv'), file('sound.mp4'));
    const lasts = probed('sound.mp4', 'packet=duration').split('\n');
    expect(new Set(lasts)).toEqual(new Set(['1024']));
  });

  test('pictures that were rounded to milliseconds come evenly again', async () => {
    ffmpeg([...PICTURE, '-c:v', 'libx264', '-bf', '3', file('even.mkv')]);
    await remux(file('even.mkv'), file('even.mp4'));
    const times = probed('even.mp4', 'packet=dts').split('\n').map(Number);
    const apart = times.slice(1).map((time, at) => time - times[at]);
    expect(new Set(apart)).toEqual(new Set([12_012]));
    expect(probed('even.mp4', 'stream=avg_frame_rate')).toBe('30000/1001');
    expect(hashesOf('even.mp4')).toBe(hashesOf('even.mkv'));
  });

  test('a recording whose clock ran already begins at once', async () => {
    ffmpeg(['-i', file('late.ts'), '-c', 'copy', '-output_ts_offset', '5000', file('hours.ts')]);
    ffmpeg([...SOUND, '-c:a', 'flac', file('beside.mkv')]);
    const makings = ['hours.mp4', 'hours.mkv', 'repaired.mp4', 'joined.mp4', 'joined.mkv'];
    for (const made of makings) {
      if (made.startsWith('hours')) await remux(file('hours.ts'), file(made));
      else if (made.startsWith('repaired')) {
        const { tracks } = await repairRecording(file('hours.ts'), file(made));
        for (const { savedS } of tracks) expect(savedS).toBeLessThan(3.2);
      } else await writeJoined({ path: file('hours.ts'), tracks: [file('beside.mkv')], outPath: file(made) });
      const starts = probed(made, 'stream=start_time').split('\n').map(Number);
      expect(Math.max(...starts)).toBeLessThan(0.05);
      expect(Number(probed(made, 'format=duration'))).toBeLessThan(3.2);
    }
  });

  test('gaps stay where they are, and pictures that come unevenly stay so', async () => {
    const pace = "setpts='if(lt(N,30),N/30,2+(N-30)/23)/TB'";
    ffmpeg([...PICTURE, '-vf', pace, '-fps_mode', 'passthrough', '-c:v', 'libx264', file('gaps.mkv')]);
    await remux(file('gaps.mkv'), file('gaps.mp4'));
    const [before, after] = ['gaps.mkv', 'gaps.mp4'].map((name) =>
      probed(name, 'packet=pts_time').split('\n').map(Number),
    );
    expect(after).toHaveLength(before.length);
    for (const [at, time] of after.entries()) expect(Math.abs(time - before[at])).toBeLessThan(0.0012);
  });

  test('turned pictures and colours are kept', async () => {
    const colours = ['-color_primaries', 'bt2020', '-color_trc', 'smpte2084', '-colorspace', 'bt2020nc'];
    ffmpeg([...PICTURE, '-c:v', 'libx264', ...colours, '-color_range', 'tv', file('colours.mkv')]);
    await remux(file('colours.mkv'), file('colours.mp4'));
    const what = 'stream=color_range,color_space,color_transfer,color_primaries';
    expect(probed('colours.mp4', what)).toBe('tv,bt2020nc,smpte2084,bt2020');
    for (const degrees of [90, 180, 270]) {
      const turn = ['-c', 'copy', '-metadata:s:v:0', `rotate=${degrees}`];
      ffmpeg(['-i', file('colours.mp4'), ...turn, file('turned.mp4')]);
      await remux(file('turned.mp4'), file('again.mov'));
      expect(probed('again.mov', 'stream_side_data=rotation')).toBe(
        probed('turned.mp4', 'stream_side_data=rotation'),
      );
    }
  });
});

test('what a container cannot hold is refused in words also where it is repaired: FFmpeg would end the process', async () => {
  ffmpeg([...PICTURE, '-c:v', 'libvpx-vp9', '-deadline', 'realtime', file('new.mkv')]);
  await expect(repairRecording(file('new.mkv'), file('new.mov'))).rejects.toThrow('.mov cannot hold vp9');
  ffmpeg([...SOUND, '-c:a', 'pcm_s16le', file('plain-sound.mkv')]);
  const repairing = repairRecording(file('plain-sound.mkv'), file('plain-sound.mp4'));
  await expect(repairing).rejects.toThrow('.mp4 cannot hold pcm-s16');
  const writer = new ContainerWriter(file('none.mp4'), 'mp4');
  expect(() => writer.addTrack({ codec: 'theora', parameters: null } as never)).toThrow(
    '.mp4 cannot hold theora',
  );
});

test('languages are kept, also in MOV, which has numbers of its own for them', async () => {
  const languages = ['deu', 'swe', 'spa', 'nld', 'hrv', 'fra'];
  const maps = languages.flatMap((one, at) => ['-map', '0', `-metadata:s:a:${at}`, `language=${one}`]);
  ffmpeg([...SOUND, ...maps, '-c:a', 'aac', file('languages.mkv')]);
  const heardAs = async (name: string) => {
    await remux(file('languages.mkv'), file(name));
    const asked = ['-show_entries', 'stream_tags=language', '-of', 'csv=p=0', file(name)];
    const told = execFileSync('ffprobe', ['-v', 'error', ...asked], { encoding: 'utf8' });
    return told.split('\n').slice(0, -1);
  };
  expect(await heardAs('languages.mov')).toEqual(['ger', 'sve', 'spa', 'dut', 'hr ', 'fra']);
  expect(await heardAs('languages.mp4')).toEqual(languages);
});

test('a name with a colon is a file', async () => {
  ffmpeg([...SOUND, '-c:a', 'aac', file('plain.mkv')]);
  await remux(file('plain.mkv'), file('data:evening.mp4'));
  expect(hashesOf('data:evening.mp4')).toBe(hashesOf('plain.mkv'));
});

test('a folder that is not there is told, and not as damage', async () => {
  ffmpeg([...SOUND, '-c:a', 'aac', file('whole.mkv')]);
  await expect(remux(file('whole.mkv'), file('nowhere/whole.mp4'))).rejects.toThrow(
    /^whole.mp4 cannot be written \(.*\)\. Try another folder/,
  );
});

test('a full disk is told', async () => {
  prepareMediaLibrary();
  const writer = new ContainerWriter('/dev/full', 'mp4');
  const disposition = { default: true } as never;
  const config = { codec: 'mp4a.40.2', sampleRate: 48_000, numberOfChannels: 2 };
  const first = new EncodedPacket(new Uint8Array(60_000), 'key', 0, 1024 / 48_000);
  const at = writer.addTrack({
    ...{ kind: 'audio', codec: 'aac', parameters: null, name: null, languageCode: 'und', disposition },
    ...{ rotation: 0, pace: null, config, first },
  });
  const writing = async () => {
    await writer.start();
    for (let i = 0; i < 10; i++)
      writer.write(at, first, { atS: (i * 1024) / 48_000, durationS: 1024 / 48_000 });
    await writer.finish();
  };
  await expect(writing()).rejects.toThrow(DiskFullError);
  await writer.drop();
});
