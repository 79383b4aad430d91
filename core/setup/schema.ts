import { z } from 'zod';
import { ClearanceSchema } from './clearance.ts';

/** The version of the setup file that this code writes. */
export const SETUP_VERSION = 1;

/** Gains outside of this range are refused: below it a send is closed instead, above it something is wrong. */
export const MIN_GAIN_DB = -96;
export const MAX_GAIN_DB = 24;

/** The recorder has this many tracks unless the setup raises it. */
export const DEFAULT_TRACK_LIMIT = 6;

export const IdSchema = z
  .string()
  .min(1)
  .max(64)
  .regex(
    /^[a-z0-9]+(?:[._-][a-z0-9]+)*$/,
    'must be lower-case letters and digits, joined by ".", "-" or "_" (like "reedbox")',
  );

export const NameSchema = z
  .string()
  .trim()
  .min(1, 'must not be empty')
  .max(80, 'must be 80 characters or fewer');

export const GainDbSchema = z
  .number('must be a number of decibels')
  .min(MIN_GAIN_DB, `must be ${MIN_GAIN_DB} dB or more (close the send for silence)`)
  .max(MAX_GAIN_DB, `must be ${MAX_GAIN_DB} dB or less`);

export const SOURCE_KINDS = [
  'microphone',
  'game',
  'voice chat',
  'music',
  'browser',
  'alerts',
  'system',
  'instrument',
  'handheld',
  'sound pad',
] as const;

export const SourceSchema = z.strictObject({
  id: IdSchema,
  name: NameSchema,
  kind: z.enum(SOURCE_KINDS),
  clearance: ClearanceSchema,
  levelDb: GainDbSchema.describe('The level of the source itself, in dB, before any send.'),
  media: z
    .strictObject({ path: z.string().min(1).max(400) })
    .nullable()
    .describe('The recording to rehearse with; the path is relative to the setup file. Null: silent.'),
  ownTrack: z
    .boolean()
    .optional()
    .describe(
      'Whether the source is to keep an edit track of its own (if its clearance allows editing); true when left out.',
    ),
});
export type Source = z.infer<typeof SourceSchema>;

export const PickupSchema = z.strictObject({
  id: IdSchema,
  source: IdSchema.describe('The source that is taken; each source has exactly one pickup.'),
  gainDb: GainDbSchema,
});
export type Pickup = z.infer<typeof PickupSchema>;

export const TRACK_USES = ['live', 'vod', 'file'] as const;
export type TrackUse = (typeof TRACK_USES)[number];
export const TRACK_PURPOSES = ['publish', 'edit', 'reference'] as const;
export const TRACK_CODECS = ['pcm-s16', 'pcm-s24', 'pcm-f32', 'flac', 'aac', 'opus'] as const;

export const TrackSchema = z.strictObject({
  id: IdSchema,
  name: NameSchema,
  uses: z
    .array(z.enum(TRACK_USES))
    .refine((uses) => new Set(uses).size === uses.length, 'must not name a use twice'),
  purpose: z.enum(TRACK_PURPOSES),
  codec: z.enum(TRACK_CODECS),
  bitrateKbps: z.number().int().min(32).max(512).optional().describe('For aac and opus; 160 when left out.'),
  layout: z.enum(['mono', 'stereo']),
});
export type Track = z.infer<typeof TrackSchema>;

export const DESTINATION_KINDS = ['headphones', 'friends', 'live', 'vod'] as const;
export const DestinationSchema = z.strictObject({
  id: IdSchema,
  name: NameSchema,
  kind: z.enum(DESTINATION_KINDS),
  targetLufs: z.number().min(-60).max(0).optional().describe('The integrated loudness that is aimed for.'),
});
export type ListedDestination = z.infer<typeof DestinationSchema>;

export const SendSchema = z.strictObject({
  pickup: IdSchema,
  to: IdSchema.describe('A track, or a destination that is not fed by a track (headphones, friends).'),
  gainDb: GainDbSchema,
});
export type Send = z.infer<typeof SendSchema>;

export const WishSchema = z.strictObject({
  source: IdSchema,
  destination: IdSchema,
  gainDb: GainDbSchema.describe('The wanted level, in dB relative to the source as it is recorded.'),
});
export type Wish = z.infer<typeof WishSchema>;

export const RecorderSchema = z.strictObject({
  trackLimit: z.number().int().min(1).max(32).optional().describe('Six when left out.'),
  recordVod: z
    .boolean()
    .optional()
    .describe('Whether the VOD’s track is to be in the local file as well; false when left out.'),
});

export const SetupSchema = z.strictObject({
  format: z.literal('northfen.setup'),
  version: z.literal(SETUP_VERSION),
  name: NameSchema,
  recorder: RecorderSchema,
  sources: z.array(SourceSchema).max(200),
  pickups: z.array(PickupSchema).max(200),
  tracks: z.array(TrackSchema).max(64),
  destinations: z.array(DestinationSchema).max(16),
  sends: z.array(SendSchema).max(12_800),
  intent: z
    .array(WishSchema)
    .max(16_000)
    .describe('What is wanted; a pair that is not listed is not wanted.'),
});
/** One saved arrangement: who makes sound, what the recorder takes, its tracks, sends and what is wanted where. */
export type Setup = z.infer<typeof SetupSchema>;
