import { z } from 'zod';
import { ProcessingSchema } from '../processors/processing.ts';
import { GainDbSchema, IdSchema, NameSchema } from '../values.ts';
import { ClearanceSchema } from './clearance.ts';
import {
  DelayMsSchema,
  DeviceSchema,
  GroupSchema,
  LinkSchema,
  MachineSchema,
  MixSchema,
  MOST_PAIRS,
  SceneSchema,
} from './wiring.ts';

export * from '../values.ts';

/** The version of the setup file that this code writes. */
export const SETUP_VERSION = 2;

/** The recorder has this many tracks unless the setup raises it. */
export const DEFAULT_TRACK_LIMIT = 6;

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

/** Tells whether a source is plugged in, rather than an app whose output can be chosen. */
export function isPlugged(kind: (typeof SOURCE_KINDS)[number]): boolean {
  return kind === 'microphone' || kind === 'instrument' || kind === 'handheld';
}

/** What `into` says when an app leaves the choice to its machine. */
export const DEFAULT_DEVICE = 'default';

export const SourceSchema = z.strictObject({
  id: IdSchema,
  name: NameSchema,
  kind: z.enum(SOURCE_KINDS),
  clearance: ClearanceSchema,
  machine: IdSchema.optional().describe('The machine that it runs on, or is plugged into.'),
  into: z
    .union([IdSchema, z.literal(DEFAULT_DEVICE)])
    .optional()
    .describe(
      'The device that it plays into: one that it names, or "default" for the machine’s default output. Left out: none.',
    ),
  machineInto: IdSchema.optional().describe(
    'The output that its machine’s own settings give to the app; it counts where the app leaves the choice to its machine (“default”).',
  ),
  stuck: z
    .boolean()
    .optional()
    .describe(
      'Whether the app is silent though it plays, until its output is moved away and back; false when left out.',
    ),
  app: NameSchema.optional().describe(
    'The app whose sound it is part of: a pickup of one app takes all sources of that app together.',
  ),
  volumePercent: z
    .number()
    .min(1, 'must be 1 % or more; close its sends for silence')
    .max(100, 'must be 100 % or less')
    .optional()
    .describe('The app’s own volume; 100 when left out.'),
  levelDb: GainDbSchema.describe('The level of the source itself, in dB, before any send.'),
  processing: ProcessingSchema.optional().describe('What is done to it before anybody gets it.'),
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

/** The whole name of an app, as its machine shows it. */
const AppNameSchema = NameSchema.refine(
  (name) => !/[*?]/.test(name),
  'must be the whole name of the app, without * or ?; the recorder does not guess',
);

/** How the recorder plays a pickup back; not at all where nothing is said. */
export const MONITORING = ['heard', 'heard and sent'] as const;

export const PickupSchema = z.strictObject({
  id: IdSchema,
  name: NameSchema.optional().describe('“Pickup of” what it takes, when left out.'),
  takes: IdSchema.describe('What the recorder takes: a device of its machine, or a source (one app alone).'),
  pairs: z
    .number()
    .int()
    .min(1)
    .max(MOST_PAIRS)
    .optional()
    .describe(
      'How many pairs of channels of the device it takes, with those that are listed as its further channels; 1 when left out. On a multichannel track they stand side by side, elsewhere they are added up.',
    ),
  asksFor: AppNameSchema.optional().describe(
    'The name by which the recorder asks for the app; it takes nothing where neither the app nor the source is called so. Left out: whatever it is called.',
  ),
  gainDb: GainDbSchema,
  delayMs: DelayMsSchema.optional(),
  mono: z.boolean().optional().describe('Whether both sides are folded into one.'),
  scenes: z.array(IdSchema).optional().describe('The scenes in which it sounds; all of them when left out.'),
  muted: z.boolean().optional().describe('Whether nothing of it is let through.'),
  monitoring: z
    .enum(MONITORING)
    .optional()
    .describe(
      'Whether the recorder plays it back, on its monitoring device: “heard” there alone and on no track, or “heard and sent”. Not at all when left out.',
    ),
  processing: ProcessingSchema.optional().describe('What is done to everything that it takes, together.'),
});
export type Pickup = z.infer<typeof PickupSchema>;

export const TRACK_USES = ['live', 'vod', 'file'] as const;
export type TrackUse = (typeof TRACK_USES)[number];
export const TRACK_PURPOSES = ['publish', 'edit', 'reference'] as const;
export const TRACK_CODECS = ['pcm-s16', 'pcm-s24', 'pcm-f32', 'flac', 'aac', 'opus'] as const;

/** Where the sides of a track's channel go when it is folded down to stereo. */
export const CHANNEL_FOLDS = ['left', 'right', 'both', 'none'] as const;
export const TrackChannelSchema = z.strictObject({
  fold: z.enum(CHANNEL_FOLDS).describe('Where the channel goes in the fold-down that live and VOD get.'),
  gainDb: GainDbSchema.describe(
    'How loud it goes there; a channel that goes to both sides is usually at -3 dB.',
  ),
});
export type TrackChannel = z.infer<typeof TrackChannelSchema>;

export const TrackSchema = z.strictObject({
  id: IdSchema,
  name: NameSchema,
  uses: z
    .array(z.enum(TRACK_USES))
    .refine((uses) => new Set(uses).size === uses.length, 'must not name a use twice'),
  purpose: z.enum(TRACK_PURPOSES),
  codec: z.enum(TRACK_CODECS),
  bitrateKbps: z.number().int().min(32).max(512).optional().describe('For aac and opus; 160 when left out.'),
  layout: z.enum(['mono', 'stereo', 'multichannel']),
  channels: z
    .array(TrackChannelSchema)
    .min(3, 'must be 3 or more; a track of one or two channels is mono or stereo')
    .max(8, 'must be 8 or fewer')
    .optional()
    .describe('The channels of a multichannel track, in their order.'),
  processing: ProcessingSchema.optional().describe(
    'What is done to everything that it gets, taken together; on a multichannel track, to each pair of channels by itself.',
  ),
});
export type Track = z.infer<typeof TrackSchema>;

export const DESTINATION_KINDS = ['headphones', 'loudspeakers', 'friends', 'live', 'vod', 'other'] as const;
export const DestinationSchema = z.strictObject({
  id: IdSchema,
  name: NameSchema,
  kind: z.enum(DESTINATION_KINDS),
  hears: z
    .array(IdSchema)
    .max(8)
    .optional()
    .describe('The devices whose sound is heard here; for the friends, the chat app’s input.'),
  targetLufs: z.number().min(-60).max(0).optional().describe('The integrated loudness that is aimed for.'),
  processing: ProcessingSchema.optional().describe(
    'What is done to everything that is heard here, taken together. Live and VOD get what their track is processed with.',
  ),
});
export type ListedDestination = z.infer<typeof DestinationSchema>;

/** How much quieter a microphone hears loudspeakers in its room, where nobody measured it (dB). */
export const AIR_DB = -30;

export const AirSchema = z.strictObject({
  destination: IdSchema.describe('The loudspeakers.'),
  source: IdSchema.describe('The microphone in their room.'),
  gainDb: GainDbSchema.describe('How much of what they play it hears; -30 where nobody measured it.'),
});
export type Air = z.infer<typeof AirSchema>;

export const SendSchema = z.strictObject({
  pickup: IdSchema,
  to: IdSchema.describe('A track, or a destination that is not fed by a track (headphones, friends).'),
  gainDb: GainDbSchema,
  channels: z
    .array(z.number().int().min(1).max(8))
    .min(1)
    .max(2)
    .optional()
    .describe(
      'On a multichannel track: the channel that carries it (folded to mono), or a pair of channels; 1 and 2 when left out.',
    ),
  processing: ProcessingSchema.optional().describe(
    'What is done to it on its way to this destination alone.',
  ),
});
export type Send = z.infer<typeof SendSchema>;

export const WishSchema = z.strictObject({
  source: IdSchema,
  destination: IdSchema,
  gainDb: GainDbSchema.describe('The wanted level, in dB relative to the source as it is recorded.'),
});
export type Wish = z.infer<typeof WishSchema>;

export const BALANCE_WISHES = ['more', 'less', 'locked'] as const;
export const BalanceAimSchema = z.strictObject({
  destination: IdSchema,
  targetLufs: z
    .number()
    .min(-60)
    .max(0)
    .nullable()
    .optional()
    .describe('The integrated loudness that is aimed for; null keeps it as loud as it is.'),
  ceilingDbtp: z.number().min(-20).max(0).optional().describe('The highest true peak; -1 when left out.'),
  bedLu: z
    .number()
    .min(0)
    .max(40)
    .optional()
    .describe('How far game and music lie under the voices while somebody speaks; 10 LU when left out.'),
  wishes: z
    .record(IdSchema, z.enum(BALANCE_WISHES))
    .optional()
    .describe('Sources that are to be louder or quieter than they would be, or to stay as they are.'),
});
/** What balancing is to hold true at one destination. */
export type BalanceAim = z.infer<typeof BalanceAimSchema>;

export const RecorderSchema = z.strictObject({
  machine: IdSchema.optional().describe('The machine that it runs on.'),
  trackLimit: z.number().int().min(1).max(32).optional().describe('Six when left out.'),
  recordVod: z
    .boolean()
    .optional()
    .describe('Whether the VOD’s track is to be in the local file as well; false when left out.'),
  monitorDevice: IdSchema.optional().describe(
    'The output of its machine on which it plays back what is monitored.',
  ),
  monitorDelayMs: DelayMsSchema.optional().describe('How late what it plays back is; 0 when left out.'),
});

export const AcceptedSchema = z.strictObject({
  finding: z.string().min(1).max(300).describe('The id of the finding.'),
  facts: z
    .string()
    .max(2000)
    .describe('What the finding said; once it says something else, it counts again.'),
  note: z.string().max(500).optional().describe('Why it is meant, in the creator’s words.'),
});
/** A finding that is meant to be so. */
export type Accepted = z.infer<typeof AcceptedSchema>;

export const LinkedFadersSchema = z.array(z.array(IdSchema).min(2).max(16)).max(16);

export const SetupSchema = z.strictObject({
  format: z.literal('northfen.setup'),
  version: z.literal(SETUP_VERSION),
  name: NameSchema,
  recorder: RecorderSchema,
  machines: z.array(MachineSchema).max(16),
  devices: z.array(DeviceSchema).max(120),
  links: z.array(LinkSchema).max(60),
  mixes: z.array(MixSchema).max(60),
  scenes: z.array(SceneSchema).max(60),
  groups: z.array(GroupSchema).max(60).optional().describe('Groups of pickups, for scenes.'),
  sources: z.array(SourceSchema).max(200),
  pickups: z.array(PickupSchema).max(200),
  tracks: z.array(TrackSchema).max(64),
  destinations: z.array(DestinationSchema).max(16),
  linkedFaders: LinkedFadersSchema.optional().describe(
    'Groups of destinations whose levels move together: by as many dB in all of them.',
  ),
  air: z
    .array(AirSchema)
    .max(256)
    .optional()
    .describe('Which microphones are in one room with which loudspeakers.'),
  sends: z.array(SendSchema).max(12_800),
  intent: z
    .array(WishSchema)
    .max(16_000)
    .describe('What is wanted; a pair that is not listed is not wanted.'),
  balance: z
    .array(BalanceAimSchema)
    .max(80)
    .optional()
    .describe('What balancing is to hold true, by destination.'),
  accepted: z
    .array(AcceptedSchema)
    .max(2000)
    .optional()
    .describe('Findings that are meant to be so; they are not counted as long as their facts stay.'),
  ticks: z
    .record(z.string().max(140), z.string().max(2000))
    .optional()
    .describe('The steps of the set-up sheet that were ticked, each with what it said then.'),
});
/**
 * One saved arrangement: who makes sound on which machine, over which devices, links and mixes it goes, what the
 * recorder takes, its tracks and sends, and what is wanted where.
 */
export type Setup = z.infer<typeof SetupSchema>;

/** A setup in one room without any wiring to speak of: nothing but sources and the recorder. */
export const NO_WIRING = {
  machines: [],
  devices: [],
  links: [],
  mixes: [],
  scenes: [],
} satisfies Partial<Setup>;
