import { DEFAULT_BED_LU, type Role } from '../balance/aims.ts';
import type { Proposal } from '../check/recording.ts';

/** A track that goes into a mix: what it carries, and how loud it is while it sounds (LUFS; null for silence). */
export interface MixedTrack {
  role: Proposal['role'];
  lufs: number | null;
}

/** Levels are moved by no more than this (dB). */
const MOST_DB = 24;

/**
 * Returns the levels of tracks in a mix (dB), by the aims of Balance: the voices as loud as each other, game and music together so far below
 * them, alerts as they are. The integrated loudness of a track leaves its pauses out (ITU-R BS.1770-5), so that a voice counts while it speaks.
 * The whole is brought to its loudness afterwards, so that only what lies between the tracks matters: the first voice stays where it is.
 */
export function mixLevels(tracks: MixedTrack[], bedLu: number = DEFAULT_BED_LU): number[] {
  const parts = tracks.map((track) => ({ part: partOf(track), lufs: track.lufs }));
  const voiceLufs = parts.find(({ part, lufs }) => part === 'voice' && lufs !== null)?.lufs ?? null;
  if (voiceLufs === null) return tracks.map(() => 0);
  const bedPower = parts.reduce(
    (sum, { part, lufs }) => (part === 'bed' && lufs !== null ? sum + 10 ** (lufs / 10) : sum),
    0,
  );
  const bedDb = bedPower > 0 ? voiceLufs - bedLu - 10 * Math.log10(bedPower) : 0;
  return parts.map(({ part, lufs }) => {
    if (lufs === null || part === 'accent') return 0;
    const gain = part === 'voice' ? voiceLufs - lufs : bedDb;
    return Math.round(10 * Math.max(-MOST_DB, Math.min(MOST_DB, gain))) / 10;
  });
}

/** What a track is in a mix. */
function partOf({ role }: MixedTrack): Role {
  if (role === 'voice' || role === 'voice chat') return 'voice';
  return role === 'alerts' ? 'accent' : 'bed';
}
