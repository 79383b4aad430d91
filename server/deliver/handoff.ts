import { stat, writeFile } from 'node:fs/promises';
import { basename, extname, join, relative, resolve, sep } from 'node:path';
import { proofOfDelivery, proofPage } from '../../core/deliver/proofPage.ts';
import type {
  ExtractedTrack,
  HandedTrack,
  MadeFindings,
  MadeHandoff,
  MarkValues,
} from '../../core/deliver/records.ts';
import { chaptersFile } from '../../core/timeline/chapters.ts';
import { cueListFile } from '../../core/timeline/cueList.ts';
import { type TimelineTrack, timelineFile } from '../../core/timeline/otio.ts';
import { fileName } from '../fileName.ts';
import { MediaError, orDamaged } from '../media/mediaError.ts';
import { openInput } from '../media/openInput.ts';
import type { Reference } from '../media/references.ts';
import { STEM_RATE } from '../media/stem.ts';

/** What an editor gets. */
export interface HandoffRequest {
  /** The tracks that were written into the folder. */
  extracted: ExtractedTrack[];
  path: string;
  /** How the recording is called. */
  name: string;
  folder: string;
  /** What was looked for in the recording, and found. */
  references: Reference[];
  found: MadeFindings;
  /** What was marked in it. */
  marks?: MarkValues[];
  /** `YYYY-MM-DD` */
  today: string;
}

/** Pictures have these rates (frames a second); what is measured is taken for the nearest. */
const FRAME_RATES = [24_000 / 1001, 24, 25, 30_000 / 1001, 30, 48, 50, 60_000 / 1001, 60, 100, 120];
const COUNTED_PACKETS = 600;

/** The folder of the tracks in that of the handoff. */
export const TRACKS_FOLDER = 'tracks';

/** What the files of a handoff are called. */
function filesOf(recording: string) {
  const name = fileName(basename(recording, extname(recording)));
  return {
    timeline: `${name}.otio`,
    chapters: `${name}.vtt`,
    cues: `${name} cues.csv`,
    proof: `${name} proof.html`,
    figures: `${name} proof.json`,
  };
}

/** @throws {MediaError} where a folder holds such a handoff already */
export async function refuseExisting(folder: string, recording: string): Promise<void> {
  const file = await firstExisting(folder, recording);
  if (file)
    throw new MediaError('unsupported', `${file} is there already. Choose an empty folder, or move it away.`);
}

/** Tells whether a handoff of a recording is in a folder already. */
export async function holdsHandoff(folder: string, recording: string): Promise<boolean> {
  return (await firstExisting(folder, recording)) !== null;
}

async function firstExisting(folder: string, recording: string): Promise<string | null> {
  for (const file of Object.values(filesOf(recording)))
    if (await stat(join(folder, file)).catch(() => null)) return file;
  return null;
}

/** What is named on the timeline: what somebody marked, and what was found. */
export function stretchesOf({ marks = [], found }: Pick<HandoffRequest, 'marks' | 'found'>) {
  return [
    ...marks.map(({ name, atS, endS }) => ({
      name,
      fromS: atS,
      untilS: endS ?? atS,
      comment: '',
      color: 'GREEN' as const,
    })),
    ...found.leaks.map((leak) => ({
      name: `${leak.reference} in track ${leak.track}`,
      fromS: leak.startS,
      untilS: leak.endS,
      comment: `${leak.levelDb.toFixed(1)} dB against the original`,
      color: 'RED' as const,
    })),
  ];
}

/**
 * Writes what an editor needs beside the tracks of a recording: a timeline on which the clean ones are on and the others off, with marks and what
 * was found, chapters, a list of what record was heard where, and the proof.
 */
export async function writeHandoff(request: HandoffRequest): Promise<MadeHandoff> {
  const { path, name: recording, folder, extracted, references, found, today } = request;
  const { figures, ...files } = filesOf(recording);
  const stretches = stretchesOf(request);
  const isOff = (track: number) =>
    references.some((one) => one.track === track) || found.leaks.some((leak) => leak.track === track + 1);
  const tracks = extracted.map((one): HandedTrack => ({ ...one, isOn: !isOff(one.track) }));
  const lengthS = tracks[0]?.lengthS ?? 0;
  const picture = await orDamaged(path, () => pictureOf(path, folder));
  const sound = tracks.map(
    (one): TimelineTrack => ({
      name: one.name,
      kind: 'Audio',
      file: `${TRACKS_FOLDER}/${one.file}`,
      isOn: one.isOn,
      rate: STEM_RATE,
    }),
  );
  const timeline = timelineFile({
    name: basename(files.timeline, '.otio'),
    lengthS,
    tracks: [...picture, ...sound],
    marks: stretches.map(({ name, comment, fromS, untilS, color }) => ({
      name,
      comment,
      fromS,
      lengthS: untilS - fromS,
      color,
    })),
  });
  const cues = cueListFile(
    found.leaks.map((leak) => ({
      record: leak.reference,
      track: tracks[leak.track - 1]?.name ?? `Track ${leak.track}`,
      fromS: leak.startS,
      untilS: leak.endS,
      levelDb: leak.levelDb,
    })),
  );
  const proof = proofOfDelivery({
    recording,
    made: today,
    found,
    references: found.verdict === null ? [] : references,
    facts: tracks.map((one) => [one.file, one.isOn ? 'on' : 'off on the timeline']),
  });
  await writeFile(join(folder, files.timeline), timeline);
  await writeFile(join(folder, files.chapters), chaptersFile(stretches));
  await writeFile(join(folder, files.cues), cues);
  await writeFile(join(folder, files.proof), proofPage(proof));
  await writeFile(join(folder, figures), `${JSON.stringify(proof, null, 2)}\n`);
  return { tracks, ...files };
}

/** The picture of a recording as a track of a timeline in a folder; none where it has none. */
async function pictureOf(path: string, folder: string): Promise<TimelineTrack[]> {
  const input = await openInput(path);
  try {
    const video = await input.getPrimaryVideoTrack();
    if (!video) return [];
    const { averagePacketRate } = await video.computePacketStats(COUNTED_PACKETS);
    const off = (rate: number) => Math.abs(rate - averagePacketRate);
    const rate = FRAME_RATES.reduce((best, one) => (off(one) < off(best) ? one : best));
    const file = relative(resolve(folder), resolve(path)).split(sep).join('/');
    return [{ name: 'Picture', kind: 'Video', file, isOn: true, rate }];
  } finally {
    input.dispose();
  }
}
