import { z } from 'zod';

/** The uses that a sound can be put to, in the order in which screens and files name them. */
export const USES = ['live', 'vod', 'upload', 'edit'] as const;
export type ClearanceUse = (typeof USES)[number];
/** Those of them in which other people hear it. */
export const PUBLISHED_USES = ['live', 'vod', 'upload'] as const satisfies ClearanceUse[];
export type PublishedUse = (typeof PUBLISHED_USES)[number];

export const ClearanceSchema = z.strictObject({
  live: z.boolean().describe('May be heard in the live broadcast.'),
  vod: z.boolean().describe('May stay in the VOD.'),
  upload: z.boolean().describe('May be in a track that is published.'),
  edit: z.boolean().describe('May be kept on an edit track.'),
  note: z.string().max(500).optional().describe('Where the clearance comes from, in the creator’s words.'),
  expiresOn: z.iso
    .date()
    .optional()
    .describe('The last day on which the clearance holds; afterwards every use counts as no.'),
});
export type Clearance = z.infer<typeof ClearanceSchema>;

/** The named presets of clearance; a clearance that fits none of them is "by hand". */
export const CLEARANCE_PRESETS = {
  own: { label: 'Own', hint: 'yours to use anywhere', live: true, vod: true, upload: true, edit: true },
  liveOnly: { label: 'Live only', hint: 'licensed music', live: true, vod: false, upload: false, edit: true },
  liveAndVod: {
    label: 'Live and VOD',
    hint: 'friends in voice chat, unless they agree to more',
    live: true,
    vod: true,
    upload: false,
    edit: true,
  },
  localOnly: {
    label: 'Local only',
    hint: 'kept for the edit',
    live: false,
    vod: false,
    upload: false,
    edit: true,
  },
  never: {
    label: 'Never',
    hint: 'notifications, private calls',
    live: false,
    vod: false,
    upload: false,
    edit: false,
  },
} as const;
export type ClearancePreset = keyof typeof CLEARANCE_PRESETS;

/** Returns the clearance that a preset stands for, as a fresh object without note or expiry. */
export function clearanceOf(preset: ClearancePreset): Clearance {
  const { live, vod, upload, edit } = CLEARANCE_PRESETS[preset];
  return { live, vod, upload, edit };
}

/**
 * The clearance that a source of each kind starts with: the safe one. Friends have not agreed to be uploaded, records are
 * licensed for live at most, and what a system or a browser plays may be anybody's.
 */
const SAFE_PRESETS = {
  microphone: 'own',
  game: 'own',
  'voice chat': 'liveAndVod',
  music: 'liveOnly',
  browser: 'liveAndVod',
  alerts: 'own',
  system: 'never',
  instrument: 'own',
  handheld: 'own',
  'sound pad': 'liveAndVod',
} as const satisfies Record<string, ClearancePreset>;

/** Returns the name of the safe clearance of a kind of source. */
export function safePresetOf(kind: keyof typeof SAFE_PRESETS): ClearancePreset {
  return SAFE_PRESETS[kind];
}

/**
 * Returns the clearance of a source whose kind changes: the safe one of the new kind, where it had that of the old kind, so
 * that what was chosen by hand stays.
 */
export function clearanceAfter(
  clearance: Clearance,
  before: keyof typeof SAFE_PRESETS,
  after: keyof typeof SAFE_PRESETS,
): Clearance {
  if (presetOf(clearance) !== SAFE_PRESETS[before]) return clearance;
  const { note, expiresOn } = clearance;
  return { ...clearanceOf(SAFE_PRESETS[after]), ...(note && { note }), ...(expiresOn && { expiresOn }) };
}

/** How many days a clearance still holds, from today on (both `YYYY-MM-DD`); null for one that does not end. */
export function daysLeft({ expiresOn }: Clearance, today: string): number | null {
  return expiresOn === undefined
    ? null
    : Math.round((Date.parse(expiresOn) - Date.parse(today)) / 86_400_000);
}

/** Returns the preset whose four uses equal those of the clearance, or null when it was set by hand. */
export function presetOf(clearance: Clearance): ClearancePreset | null {
  const names = Object.keys(CLEARANCE_PRESETS) as ClearancePreset[];
  return names.find((name) => USES.every((use) => CLEARANCE_PRESETS[name][use] === clearance[use])) ?? null;
}

/** Tells whether the clearance has run out on the given day (`YYYY-MM-DD`). */
export function hasExpired(clearance: Clearance, today: string): boolean {
  return clearance.expiresOn !== undefined && clearance.expiresOn < today;
}

/** Tells whether the use is allowed on the given day (`YYYY-MM-DD`); an expired clearance allows nothing. */
export function isCleared(clearance: Clearance, use: ClearanceUse, today: string): boolean {
  return clearance[use] && !hasExpired(clearance, today);
}

/**
 * Returns the uses of a track that a clearance forbids: live, VOD, upload where the track is for publishing, and edit where it is
 * written to the file at all.
 */
export function forbiddenUses(
  clearance: Clearance,
  { uses, purpose }: { uses: readonly string[]; purpose: string },
  today: string,
): ClearanceUse[] {
  return usesOf({ uses, purpose }).filter((use) => !isCleared(clearance, use, today));
}

/** Returns the uses that a track is put to. */
export function usesOf({ uses, purpose }: { uses: readonly string[]; purpose: string }): ClearanceUse[] {
  const put: ClearanceUse[] = [];
  if (uses.includes('live')) put.push('live');
  if (uses.includes('vod')) put.push('vod');
  if (purpose === 'publish') put.push('upload');
  if (uses.includes('file')) put.push('edit');
  return put;
}

/** What the uses are called in sentences. */
export const USE_WORDS: Record<ClearanceUse, string> = {
  live: 'live',
  vod: 'VOD',
  upload: 'upload',
  edit: 'edit',
};
