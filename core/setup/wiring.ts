import { z } from 'zod';
import { DEVICE_EFFECTS } from '../processors/deviceEffects.ts';
import { ProcessingSchema } from '../processors/processing.ts';
import { GainDbSchema, IdSchema, NameSchema } from '../values.ts';

/** No sound takes longer than this on one leg of its way (ms). */
export const MAX_DELAY_MS = 5000;

export const DelayMsSchema = z
  .number('must be a number of milliseconds')
  .min(0, 'must not be negative: sound cannot arrive before it is made')
  .max(
    MAX_DELAY_MS,
    `must be ${MAX_DELAY_MS} ms or less; a longer delay is a mistake, or belongs in the edit`,
  );

export const MACHINE_KINDS = ['computer', 'desk', 'console'] as const;
export const MachineSchema = z.strictObject({
  id: IdSchema,
  name: NameSchema,
  kind: z.enum(MACHINE_KINDS),
  room: NameSchema.optional().describe(
    'The room in which it stands; machines of which nothing is said may stand in any.',
  ),
  defaultOutput: IdSchema.optional().describe('The device that apps play into which name none themselves.'),
  handovers: z
    .number()
    .int()
    .min(1)
    .max(16)
    .optional()
    .describe('How many mixes a desk can hand over to other machines; any number when left out.'),
  clockPpm: z
    .number()
    .min(-500)
    .max(500)
    .optional()
    .describe('How fast its sound clock runs, in parts per million over the nominal rate; 0 when left out.'),
});
export type Machine = z.infer<typeof MachineSchema>;

/** A pickup takes as many pairs of channels of a device at most. */
export const MOST_PAIRS = 4;

export const DeviceSchema = z.strictObject({
  id: IdSchema,
  name: NameSchema,
  machine: IdSchema,
  direction: z.enum(['out', 'in']),
  kind: z
    .enum(['physical', 'virtual'])
    .describe(
      'What is played into a virtual output can be picked up, or passed on, and is heard nowhere else.',
    ),
  sampleRate: z.number().int().min(8000).max(192_000).optional().describe('48000 when left out.'),
  clockPpm: z
    .number()
    .min(-500)
    .max(500)
    .optional()
    .describe(
      'How fast its own clock runs, in parts per million over the nominal rate, where it has one; the clock of its machine when left out.',
    ),
  follows: IdSchema.optional().describe(
    'The device of the same machine that leads its clock: both are driven together, and nothing drifts between them.',
  ),
  channelsOf: IdSchema.optional().describe(
    'The device whose further pair of channels it is: the first that is listed is its channels 3 and 4, the next 5 and 6.',
  ),
  volumeDb: GainDbSchema.optional().describe(
    'Its own volume: what it does to the level of all that passes it; 0 when left out.',
  ),
  does: z
    .array(z.enum(DEVICE_EFFECTS))
    .max(4)
    .optional()
    .describe('What it does to the sound by itself; nothing when left out.'),
});
export type Device = z.infer<typeof DeviceSchema>;

export const LINK_KINDS = ['hdmi', 'analogue', 'usb', 'network'] as const;
export const LinkSchema = z.strictObject({
  id: IdSchema,
  name: NameSchema,
  from: IdSchema.describe('An output device of one machine.'),
  to: IdSchema.describe('An input device of another machine.'),
  kind: z.enum(LINK_KINDS),
  latencyMs: DelayMsSchema,
  isolated: z
    .boolean()
    .optional()
    .describe('Whether an analogue line is isolated, so that it cannot hum; false when left out.'),
  converted: z
    .boolean()
    .optional()
    .describe('Whether the far end follows the sender’s clock and rate; true when left out.'),
});
export type Link = z.infer<typeof LinkSchema>;

export const MixInputSchema = z.strictObject({
  from: IdSchema.describe('A source, a device, or another mix.'),
  gainDb: GainDbSchema,
  muted: z.boolean().optional(),
  delayMs: DelayMsSchema.optional(),
  processing: ProcessingSchema.optional().describe('What is done to it on its way into this mix alone.'),
});
export type MixInput = z.infer<typeof MixInputSchema>;

export const MixSchema = z.strictObject({
  id: IdSchema,
  name: NameSchema,
  machine: IdSchema,
  inputs: z.array(MixInputSchema).max(64),
  into: z.array(IdSchema).max(8).describe('The devices of the same machine that the mix plays into.'),
  listenedOn: IdSchema.optional().describe(
    'The output on which somebody listens in on it now: meanwhile it plays there alone.',
  ),
  processing: ProcessingSchema.optional().describe(
    'What is done to everything that it takes in, taken together.',
  ),
});
export type Mix = z.infer<typeof MixSchema>;

export const SceneSchema = z.strictObject({
  id: IdSchema,
  name: NameSchema,
  groups: z
    .array(IdSchema)
    .max(60)
    .optional()
    .describe('The groups of pickups that sound in it, besides the pickups that name it themselves.'),
});

export const GroupSchema = z.strictObject({
  id: IdSchema,
  name: NameSchema,
  pickups: z
    .array(IdSchema)
    .max(200)
    .describe('The pickups that are in it; they sound where the group does.'),
});
/** Pickups that go into scenes together; a group may be in many scenes. */
export type Group = z.infer<typeof GroupSchema>;
export type Scene = z.infer<typeof SceneSchema>;
