import { rename, rm } from 'node:fs/promises';
import type { Stereo } from '../../core/audio/planes.ts';
import { newStereo } from '../../core/audio/planes.ts';
import type { LeakInterval, Verdict } from '../../core/check/verification.ts';
import { withFft } from '../../core/measure/fft.ts';
import { downDb, type Subtraction, subtract } from '../../core/rescue/subtract.ts';
import type { TaskRunner } from '../jobs/runner.ts';
import { verifyRecording } from '../jobs/verify.ts';
import { AudioFile } from '../media/audioFile.ts';
import { refuseOver } from '../media/keepOriginals.ts';
import { MediaError } from '../media/mediaError.ts';
import type { Reference } from '../media/references.ts';
import { STEM_RATE, Stem } from '../media/stem.ts';
import { TakeWriter } from '../media/takeWriter.ts';
import { UntilDamage } from '../media/untilDamage.ts';
import { checkUpload } from './checkUpload.ts';

/** A track that something is to be taken out of (counted from zero), and the sound of that alone. */
export interface RescueRequest {
  path: string;
  track: number;
  reference: Reference;
  outPath: string;
}

/** A stretch in which something was taken out. */
export interface RescuedStretch {
  startS: number;
  endS: number;
  /** How loud it was, against the sound alone; and how far down it went, as far as that can be known (dB). */
  levelDb: number;
  downDb: number | null;
}

/** What came of a rescue. */
export interface Rescue {
  downDb: number | null;
  intervals: RescuedStretch[];
  /** What a check of the new track says. */
  verdict: Verdict;
  /** What is left in it, by that check. */
  leaks: LeakInterval[];
}

/** A sound is taken out of so much at a time (s), each part overlapping the next by so much. */
const SECTION_S = 30;
const OVERLAP_S = 1;
/** A stretch may begin earlier and end later than it was heard (s). */
const AROUND_S = 2.5;
/** So much of the reference is read before and after what is needed (s). */
const MARGIN_S = 1;

/** What a coder made of a sound beside others does not go with it: no more than this is claimed where a track was coded (dB). */
const MOST_AFTER_CODING_DB = 12;

/** A part of a stretch (frames of the track). */
interface Section {
  from: number;
  to: number;
  leak: LeakInterval;
}

/**
 * Takes a sound out of a track, wherever a check finds it, and checks what is left. Where it is not found, the track stays as it is.
 * @throws {MediaError} when a file does not decode, has no such track or one of more than two channels, or would be written over
 */
export async function rescueTrack(
  runner: TaskRunner,
  { path, track, reference, outPath }: RescueRequest,
  onProgress: (share: number) => void = () => {},
): Promise<Rescue> {
  await refuseOver(outPath, [path, reference.path]);
  const asked = { ...reference, forbiddenIn: [track] };
  const { leaks } = await verifyRecording(runner, path, [asked], {
    onProgress: (share) => onProgress(0.3 * share),
  });
  const sections = sectionsOf(leaks);
  const part = `${outPath}.part`;
  try {
    const done = await writeWithout({ path, track, reference, sections, outPath: part }, (share) =>
      onProgress(0.3 + 0.4 * share),
    );
    const { verdict, leaks: left } = await checkUpload(
      runner,
      { path, outPath: part, fromS: 0, lengthS: done.frames / STEM_RATE },
      [reference],
      (share) => onProgress(0.7 + 0.3 * share),
    );
    await rename(part, outPath);
    const down = (parts: Subtraction[]) => {
      const known = downDb(parts);
      return known === null || !done.isLossy ? known : Math.min(known, MOST_AFTER_CODING_DB);
    };
    return {
      downDb: down(done.parts),
      intervals: leaks.map((leak) => ({
        startS: leak.startS,
        endS: leak.endS,
        levelDb: leak.levelDb,
        downDb: down(done.parts.filter((_, at) => sections[at].leak === leak)),
      })),
      verdict,
      leaks: left,
    };
  } finally {
    await rm(part, { force: true });
  }
}

function sectionsOf(leaks: LeakInterval[]): Section[] {
  const sections: Section[] = [];
  let free = 0;
  for (const leak of [...leaks].sort((a, b) => a.startS - b.startS)) {
    const start = Math.max(free, Math.round((leak.startS - AROUND_S) * STEM_RATE), 0);
    const end = Math.round((leak.endS + AROUND_S) * STEM_RATE);
    const step = (SECTION_S - OVERLAP_S) * STEM_RATE;
    const count = Math.max(1, Math.ceil((end - start - OVERLAP_S * STEM_RATE) / step));
    for (let at = 0; at < count; at++) {
      const from = start + at * step;
      sections.push({ from, to: Math.min(end, from + SECTION_S * STEM_RATE), leak });
    }
    free = end;
  }
  return sections;
}

interface Without {
  path: string;
  track: number;
  reference: Reference;
  sections: Section[];
  outPath: string;
}

/** Writes a track without a sound. @returns what was taken in each section, and how long the track is (frames) */
async function writeWithout(
  { path, track, reference, sections, outPath }: Without,
  onProgress: (share: number) => void,
): Promise<{ parts: Subtraction[]; frames: number; isLossy: boolean }> {
  const file = await AudioFile.open(path, { allowCut: true });
  const { channels, codec, durationS, name } = file.tracks[track];
  if (channels > 2) {
    file.close();
    throw new MediaError(
      'unsupported',
      `Track ${track + 1} has ${channels} channels. Only one or two can be rescued: fold it to stereo first.`,
    );
  }
  const stem = Stem.of(file, track);
  const writer = await TakeWriter.create(
    outPath,
    [
      {
        name: name ?? 'Rescued',
        codec: codec === 'pcm-f32' ? 'pcm-f32' : 'pcm-s24',
        layout: channels === 1 ? 'mono' : 'stereo',
        channels: undefined,
      },
    ],
    { container: 'wav', isLarge: durationS > 3600 },
  );
  const parts: Subtraction[] = [];
  let written = 0;
  /** The track from where it was written on, as it was and as it is to be. */
  let was = newStereo(0);
  let becomes = newStereo(0);
  const readTo = async (frame: number) => {
    const more = frame - written - was[0].length;
    if (more <= 0) return;
    const read = newStereo(more);
    const got = await stem.read(read, more);
    was = joined(was, read, got);
    becomes = joined(becomes, read, got);
  };
  const writeTo = async (frame: number) => {
    const count = Math.min(frame - written, becomes[0].length);
    if (count <= 0) return;
    await writer.add([becomes], count);
    was = [was[0].slice(count), was[1].slice(count)];
    becomes = [becomes[0].slice(count), becomes[1].slice(count)];
    written += count;
    onProgress(Math.min(1, written / STEM_RATE / Math.max(1, durationS)));
  };
  try {
    await withFft(async (makeFft) => {
      for (const section of sections) {
        while (written < section.from) {
          const next = Math.min(section.from, written + STEM_RATE);
          await readTo(next);
          if (was[0].length === 0) return;
          await writeTo(next);
        }
        await readTo(section.to);
        const count = Math.min(section.to - section.from, was[0].length);
        const mix: Stereo = [was[0].subarray(0, count), was[1].subarray(0, count)];
        const driftPerSample = (section.leak.driftPpm ?? 0) * 1e-6;
        const fromS = section.from / STEM_RATE;
        const middleS = (section.leak.startS + section.leak.endS) / 2;
        const lagS = section.leak.offsetMs / 1000 + driftPerSample * (fromS - middleS);
        const soundFromS = Math.max(0, fromS - lagS - MARGIN_S);
        const sound = await stereoOf(path, reference, soundFromS, count / STEM_RATE + 2 * MARGIN_S);
        const found = subtract(makeFft, {
          mix,
          reference: sound,
          margin: Math.round((fromS - lagS - soundFromS) * STEM_RATE),
          lag: { atStart: 0, perSample: driftPerSample },
        });
        parts.push(found);
        // At the very beginning and end of the track there is nothing to fade from or to.
        const isAtEnd = count < section.to - section.from || section.to >= durationS * STEM_RATE;
        for (const side of [0, 1])
          takeOut(becomes[side], found.taken[side].subarray(0, count), section.from > 0, !isAtEnd);
        await writeTo(section.to - OVERLAP_S * STEM_RATE);
      }
    });
    for (;;) {
      await readTo(written + STEM_RATE);
      if (becomes[0].length === 0) break;
      await writeTo(written + becomes[0].length);
    }
    await writer.finish();
    return { parts, frames: written, isLossy: !codec.startsWith('pcm') && codec !== 'flac' };
  } catch (error) {
    await writer.cancel().catch(() => {});
    throw error;
  } finally {
    await stem.close();
    file.close();
  }
}

/** Subtracts, fading in and out where sections overlap. */
function takeOut(plane: Float32Array, taken: Float32Array, fadesIn: boolean, fadesOut: boolean): void {
  const overlap = OVERLAP_S * STEM_RATE;
  for (let i = 0; i < taken.length; i++) {
    const before = fadesIn ? i / overlap : 1;
    const after = fadesOut ? (taken.length - i) / overlap : 1;
    plane[i] -= taken[i] * Math.min(1, before, after);
  }
}

function joined(before: Stereo, more: Stereo, count: number): Stereo {
  const one = (side: 0 | 1) => {
    const whole = new Float32Array(before[side].length + count);
    whole.set(before[side]);
    whole.set(more[side].subarray(0, count), before[side].length);
    return whole;
  };
  return [one(0), one(1)];
}

/** A stretch of the sound alone (s). */
async function stereoOf(path: string, reference: Reference, fromS: number, lengthS: number): Promise<Stereo> {
  const file = await AudioFile.open(reference.path ?? path, { allowCut: true });
  const stem = new UntilDamage(Stem.of(file, reference.track ?? 0, { fromS }));
  try {
    const planes = newStereo(Math.round(lengthS * STEM_RATE));
    await stem.read(planes, planes[0].length);
    return planes;
  } finally {
    await stem.close();
    file.close();
  }
}
