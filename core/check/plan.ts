import { z } from 'zod';
import { reachOf } from '../reach/reach.ts';
import { isCleared, PUBLISHED_USES, type PublishedUse, usesOf } from '../setup/clearance.ts';
import type { Setup } from '../setup/schema.ts';
import { tracksOf } from '../sounding/sounding.ts';
import type { Proposal } from './recording.ts';

const UsesSchema = z.array(z.enum(PUBLISHED_USES)).max(PUBLISHED_USES.length);
const NameSchema = z.string().trim().min(1, 'must not be empty').max(200, 'must be 200 characters or fewer');

/** Where to find a sound that must not be in a recording: one of Northfen’s recordings, or a file or folder of the media folder. */
const PlaceSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('media'), path: z.string().min(1).max(1000) }),
  z.strictObject({ kind: z.literal('folder'), path: z.string().max(1000) }),
]);

/** The question that a check answers: what each track carries, where it goes, and what must not be there. */
export const CheckPlanSchema = z.strictObject({
  /** The setup that the recording was made with, where there is one. */
  setupId: z.string().max(100).nullable(),
  tracks: z
    .array(
      z.strictObject({
        carries: z.string().trim().max(200),
        /** The uses that the track is put to. */
        goesTo: UsesSchema,
        /** The uses that what it carries is not allowed for. */
        notFor: UsesSchema,
      }),
    )
    .max(64),
  /** Files with sounds, and the uses that they are not allowed for. */
  files: z.array(z.strictObject({ name: NameSchema, place: PlaceSchema, notFor: UsesSchema })).max(400),
  /** Sounds that are not allowed everywhere, but for which there is neither a track nor a file. */
  unknown: z.array(z.strictObject({ name: NameSchema, notFor: UsesSchema })).max(400),
});
export type CheckPlan = z.infer<typeof CheckPlanSchema>;
export type PlannedTrack = CheckPlan['tracks'][number];
export type PlannedFile = CheckPlan['files'][number];

/** A sound that must not be in some tracks of a recording (counted from zero): another track of it, or a file. */
export interface PlannedReference {
  name: string;
  track: number | null;
  place: PlannedFile['place'] | null;
  notFor: PublishedUse[];
  forbiddenIn: number[];
}

/** Words in a track’s name that tell its use. */
const USE_WORDS: [RegExp, PublishedUse][] = [
  [/\b(live|stream|broadcast)\b/i, 'live'],
  [/\b(vod)\b/i, 'vod'],
  [/\b(upload|clean|publish|video)\b/i, 'upload'],
];

/** What is usually not allowed: friends have not agreed to be uploaded, records are licensed for live at most. */
const USUALLY_NOT: Partial<Record<Proposal['role'], PublishedUse[]>> = {
  music: ['vod', 'upload'],
  'voice chat': ['upload'],
};

/** Returns the plan that a recording without a setup begins with, from what its tracks seem to carry. */
export function proposedPlan(names: (string | null)[], proposals: Proposal[]): CheckPlan {
  const tracks = proposals.map(({ role, track }): PlannedTrack => {
    const uses = USE_WORDS.flatMap(([words, use]) => (words.test(names[track] ?? '') ? [use] : []));
    const goesTo: PublishedUse[] = role === 'mix' ? (uses.length > 0 ? uses : ['upload']) : [];
    const carries = names[track] || (role === 'unknown' ? '' : role);
    return { carries, goesTo, notFor: USUALLY_NOT[role] ?? [] };
  });
  // Where no name says what is uploaded, it is the first mix, or the first track: that is what a player plays.
  if (tracks.every(({ goesTo }) => !goesTo.includes('upload'))) {
    const first = tracks.find((_, at) => proposals[at].role === 'mix') ?? tracks[0];
    if (first && first.notFor.length === 0) first.goesTo = [...first.goesTo, 'upload'];
  }
  return { setupId: null, tracks, files: [], unknown: [] };
}

/**
 * Returns the plan that a setup’s clearances make for a recording of it: a source that is not allowed everywhere is looked for by the track
 * that carries it alone, else by its recording.
 * @param names of the recording’s tracks
 * @param today `YYYY-MM-DD`, for clearances that expire
 */
export function planFromSetup(
  setupId: string | null,
  setup: Setup,
  names: (string | null)[],
  today: string,
): CheckPlan {
  const matched = tracksOf(
    setup,
    names.map((name) => ({ name })),
  );
  const tracks = matched.map((track, at): PlannedTrack => {
    const uses = track ? usesOf(track) : [];
    const goesTo = PUBLISHED_USES.filter((use) => uses.includes(use));
    return { carries: track?.name ?? names[at] ?? '', goesTo, notFor: [] };
  });
  const files: PlannedFile[] = [];
  const unknown: CheckPlan['unknown'] = [];
  const reach = reachOf(setup);
  for (const source of setup.sources) {
    const notFor = PUBLISHED_USES.filter((use) => !isCleared(source.clearance, use, today));
    if (notFor.length === 0) continue;
    const alone = matched.findIndex(
      (track, at) =>
        track !== null &&
        !tracks[at].goesTo.some((use) => notFor.includes(use)) &&
        setup.sources.every(({ id }) => (reach.onTrack(id, track.id) !== null) === (id === source.id)),
    );
    if (alone >= 0) tracks[alone] = { ...tracks[alone], carries: source.name, notFor };
    else if (source.media)
      files.push({ name: source.name, place: { kind: 'media', path: source.media.path }, notFor });
    else unknown.push({ name: source.name, notFor });
  }
  return { setupId, tracks, files, unknown };
}

/** Returns which sounds to look for in which tracks: each sound in the tracks whose uses it is not allowed for. */
export function referencesOf(plan: CheckPlan): PlannedReference[] {
  return soundsOf(plan)
    .map((sound) => ({
      ...sound,
      forbiddenIn: plan.tracks.flatMap(({ goesTo }, at) =>
        at !== sound.track && goesTo.some((use) => sound.notFor.includes(use)) ? [at] : [],
      ),
    }))
    .filter((one) => one.forbiddenIn.length > 0);
}

/** Returns every sound that is not allowed for a use, to be looked for in some tracks (counted from zero), whatever use those are put to. */
export function restrictedFor(use: PublishedUse, plan: CheckPlan, tracks: number[]): PlannedReference[] {
  return soundsOf(plan)
    .filter(({ notFor }) => notFor.includes(use))
    .map((sound) => ({ ...sound, forbiddenIn: tracks.filter((one) => one !== sound.track) }));
}

/** Tells whether two plans ask the same: an answer to one is an answer to the other. */
export function isSamePlan(one: CheckPlan | null, other: CheckPlan | null): boolean {
  return JSON.stringify(one) === JSON.stringify(other);
}

/** All sounds of a plan that can be looked for: tracks under names of their own, and files. */
export function soundsOf({ tracks, files }: CheckPlan): Omit<PlannedReference, 'forbiddenIn'>[] {
  const names = tracks.map(({ carries }, at) => carries || `Track ${at + 1}`);
  return [
    ...tracks.map(({ notFor }, at) => ({
      name:
        names.filter((name) => name === names[at]).length > 1 ? `${names[at]} (track ${at + 1})` : names[at],
      track: at,
      place: null,
      notFor,
    })),
    ...files.map(({ name, place, notFor }) => ({ name, track: null, place, notFor })),
  ];
}
