import { z } from 'zod';
import type { LeakInterval, UntestedPair, Verdict } from '../check/verification.ts';

/** More pieces than these are not made in one go. */
export const MOST_PIECES = 60;
const SecondsSchema = z.number().min(0).max(1_000_000);
const TrackSchema = z.number().int().min(0).max(63);

/** A stretch of the recording that becomes a video of its own (s); to the end where it says no end. */
const PieceSchema = z
  .strictObject({
    name: z.string().trim().min(1, 'must not be empty').max(120),
    fromS: SecondsSchema,
    untilS: SecondsSchema.nullable(),
  })
  .refine(({ fromS, untilS }) => untilS === null || untilS > fromS, { message: 'must end after it begins' });
export type Piece = z.infer<typeof PieceSchema>;

/** What an upload’s sound is mixed of: a track of the recording (counted from zero), or a track that was rescued before. */
const IngredientSchema = z.strictObject({
  track: TrackSchema,
  rescueId: z.string().max(100).nullable(),
  gainDb: z.number().min(-60).max(24),
});
export type Ingredient = z.infer<typeof IngredientSchema>;

const UploadOrderSchema = z.strictObject({
  tracks: z.array(IngredientSchema).min(1, 'choose at least one track').max(64),
  targetLufs: z.number().min(-40).max(-5),
  ceilingDbtp: z.number().min(-12).max(0),
  container: z.enum(['mp4', 'mkv']),
  fadeS: z.number().min(0).max(30),
  pieces: z.array(PieceSchema).min(1, 'choose what of it is made').max(MOST_PIECES),
  /** Verdicts with which it is made all the same. */
  evenIf: z.array(z.enum(['not clean', 'not testable'])).max(2),
});
export type UploadOrder = z.infer<typeof UploadOrderSchema>;

/** What is to be made of a recording. */
export const DeliveryOrderSchema = z.discriminatedUnion('kind', [
  /** Videos for uploads, and what an editor needs; into one folder. */
  z
    .strictObject({
      kind: z.literal('files'),
      upload: UploadOrderSchema.nullable(),
      handoff: z.enum(['wav', 'flac']).nullable(),
    })
    .refine(({ upload, handoff }) => upload !== null || handoff !== null, {
      message: 'choose the video, the tracks, or both',
    }),
  /** A sound is taken out of a track: one that another track carries, or a file of the plan by its name. */
  z.strictObject({
    kind: z.literal('rescue'),
    track: TrackSchema,
    sound: z.strictObject({ track: TrackSchema.nullable(), file: z.string().max(300).nullable() }),
  }),
  /** Other recordings that were added (by their ids) are joined with this one, by the sound of one of its tracks. */
  z.strictObject({
    kind: z.literal('join'),
    track: TrackSchema,
    others: z.array(z.string().max(100)).min(1, 'choose at least one recording').max(20),
  }),
  /** The recording in another container, nothing coded again; or a damaged one up to its last whole packet, with an index. */
  z.strictObject({ kind: z.literal('rewrap'), container: z.enum(['mp4', 'mov', 'mkv']) }),
  /** `like`: a whole recording (by its id) made by the same program with the same settings; it shows how to read one that has lost its index. */
  z.strictObject({ kind: z.literal('repair'), like: z.string().max(100).optional() }),
  /** Moments worth a mark are looked for. */
  z.strictObject({ kind: z.literal('marks') }),
]);
export type DeliveryOrder = z.infer<typeof DeliveryOrderSchema>;

/** What a check of something that was made says; without a verdict where nothing was to be looked for. */
export interface MadeFindings {
  verdict: Verdict | null;
  leaks: LeakInterval[];
  untested: UntestedPair[];
}

/** What an upload’s sound measures, as it is heard from the file. */
export interface UploadMeasures {
  lufs: number | null;
  truePeakDbtp: number | null;
  /** What was done to all tracks (dB), and whether peaks were held down. */
  gainDb: number;
  isLimited: boolean;
}

/** An upload that was made: where it begins in the recording, how long it is (s), and what it holds. */
export interface MadeVideo extends UploadMeasures {
  fromS: number;
  lengthS: number;
  hasPicture: boolean;
}

/** A video that was made and checked; without a file where its verdict was not allowed for. */
export interface MadeUpload extends MadeVideo, MadeFindings {
  piece: string;
  file: string | null;
  proof: string | null;
}

/** A track in a file of its own. */
export interface ExtractedTrack {
  /** Counted from zero. */
  track: number;
  name: string;
  file: string;
  lengthS: number;
}

/** A track that an editor gets. */
export interface HandedTrack extends ExtractedTrack {
  /** Whether it is on when the timeline is opened: what carries something that must not go out is off. */
  isOn: boolean;
}

/** What was written into the folder of a handoff. */
export interface MadeHandoff {
  tracks: HandedTrack[];
  timeline: string;
  chapters: string;
  cues: string;
  proof: string;
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
export interface RescueResult {
  downDb: number | null;
  intervals: RescuedStretch[];
  /** The track had been coded with loss, so that less can be claimed. */
  isLossy: boolean;
  /** The same in parts of half a minute. */
  parts: RescuedStretch[];
  /** What a check of the new track says. */
  verdict: Verdict;
  /** What is left in it, by that check. */
  leaks: LeakInterval[];
}

/** A recording that was joined with a picture. */
export interface JoinedFile {
  file: string;
  /** When it began, after the picture did (ms); and by how much the picture’s clock runs fast against its own (ppm). */
  offsetMs: number;
  driftPpm: number;
  /** 0 to 1. */
  confidence: number;
  /** For how long it was heard in the picture’s sound (s), and how far off that lies where it lies farthest (ms). */
  heardS: number;
  offMs: number;
  /** Its clock runs evenly, so that it lies within 2 ms everywhere. */
  isSteady: boolean;
}

/** What came of joining: each recording, the names of the tracks that were added, and what of the recording with the picture was not copied. */
export interface JoinResult {
  joined: JoinedFile[];
  tracks: string[];
  /** Missing in what was made before this was told. */
  left?: string[];
}

/** What was made. */
export type DeliveryResult =
  | { kind: 'files'; uploads: MadeUpload[]; handoff: (MadeHandoff & MadeFindings) | null }
  | { kind: 'rescue'; track: number; sound: string; file: string; takenFile: string; rescue: RescueResult }
  | { kind: 'join'; file: string; join: JoinResult }
  | { kind: 'rewrap'; file: string; left: string[] }
  | { kind: 'repair'; file: string; lines: string[] }
  | { kind: 'marks'; suggestions: Suggestion[] };

/** How far it is. */
export type DeliveryState = 'waiting' | 'running' | 'done' | 'failed' | 'stopped';

/** Something that is made of a recording, or was. */
export interface Delivery {
  id: string;
  checkId: string;
  order: DeliveryOrder;
  state: DeliveryState;
  /** What is being done. */
  phase: string;
  /** 0 to 1. */
  progress: number;
  message: string | null;
  /** The folder that holds it, as the system calls it; empty while there is none. */
  folder: string;
  files: DeliveredFile[];
  result: DeliveryResult | null;
  /** The same for everything that was asked for in one go; null for a job by itself. */
  go: string | null;
  createdAt: string;
}

/** A file that was made, by its name in the folder (with / between folders). */
export interface DeliveredFile {
  name: string;
  bytes: number;
}

/** A named moment of a recording, or a stretch of it (s). */
export interface Mark {
  id: string;
  atS: number;
  endS: number | null;
  name: string;
}

/** What may be changed of a mark. */
export const MarkValuesSchema = z
  .strictObject({
    atS: SecondsSchema,
    endS: SecondsSchema.nullable(),
    name: z.string().trim().min(1, 'must not be empty').max(120),
  })
  .refine(({ atS, endS }) => endS === null || endS > atS, { message: 'must end after it begins' });
export type MarkValues = z.infer<typeof MarkValuesSchema>;

/** A moment that may be worth a mark. */
export interface Suggestion {
  kind: 'alert' | 'at once' | 'loud' | 'silence';
  atS: number;
  endS: number | null;
  name: string;
}
