import { clockText } from '../words/figures.ts';

/** What was saved of one track of a damaged recording, and what was promised (s); null where nothing says how long it was to be. */
export interface RepairedTrack {
  kind: 'audio' | 'video';
  codec: string;
  name: string | null;
  packets: number;
  savedS: number;
  promisedS: number | null;
  /** Why it ends there; null where it ends by itself. */
  brokeOff: string | null;
}

/** A track counts as whole when no more than this is missing (s). */
const WHOLE_S = 0.2;

/** Says what was saved of a track, and what was lost. */
export function repairWords({ kind, codec, name, savedS, promisedS, brokeOff }: RepairedTrack): string {
  const what = `${kind}${name ? ` “${name}”` : ''} (${codec}): ${clockText(savedS)} saved`;
  const lostS = promisedS === null ? 0 : promisedS - savedS;
  const lost = lostS > WHOLE_S ? `, ${clockText(Math.max(1, lostS))} lost of what it was to have` : '';
  return `${what}${lost}${brokeOff ? '; the rest cannot be read' : ''}`;
}
