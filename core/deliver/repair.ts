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
  /** Parts in its middle that are not there any more (s). */
  lost: { fromS: number; toS: number }[];
}

/** A track counts as whole when no more than this is missing (s). */
const WHOLE_S = 0.2;
const SHORT_S = 1;

/** Says what was saved of each track, and what was lost; tracks are counted among those of their kind. */
export function repairLines(tracks: RepairedTrack[]): string[] {
  return tracks.map((track, at) => {
    const number = tracks.slice(0, at + 1).filter(({ kind }) => kind === track.kind).length;
    return repairWords(track, number);
  });
}

function repairWords(track: RepairedTrack, number: number): string {
  const { kind, codec, name, savedS, promisedS, brokeOff, lost } = track;
  const withinS = lost.reduce((sum, { fromS, toS }) => sum + toS - fromS, 0);
  const what = `${kind} track ${number}${name ? ` “${name}”` : ''} (${codec}): ${clockText(savedS - withinS)} saved`;
  const lostS = promisedS === null ? 0 : promisedS - savedS;
  const atEnd = lostS > WHOLE_S ? `, ${clockText(Math.max(1, lostS))} lost of what it was to have` : '';
  const within = lost
    .map(({ fromS, toS }) =>
      toS - fromS < SHORT_S
        ? `; less than a second is lost near ${clockText(fromS)}`
        : `; nothing is left from ${clockText(fromS)} to ${clockText(toS)}`,
    )
    .join('');
  return `${what}${atEnd}${within}${brokeOff ? '; the rest cannot be read' : ''}`;
}
