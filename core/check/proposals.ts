import type { Relation } from '../measure/relations.ts';
import { levelText, listed } from '../words/figures.ts';
import type { InspectedTrack, Proposal } from './recording.ts';

/** Words of track names, and what they stand for. */
const ROLE_WORDS: [RegExp, Proposal['role']][] = [
  [/\b(chat|friends?|call|discussion|team|party|guests?)\b/i, 'voice chat'],
  [/\b(mic|microphone|voice|voix|vocals?|narrator|commentary)\b/i, 'voice'],
  [/\b(music|records?|songs?|tunes?)\b/i, 'music'],
  [/\b(game|desktop)\b/i, 'game'],
  [/\b(alerts?|bells?|notifications?)\b/i, 'alerts'],
  [/\b(mix|master|live|vod|stream|upload|all|main)\b/i, 'mix'],
];

/** Says what each track of a recording seems to carry: by how the tracks go together, by its name, by its sound. */
export function proposalsOf(tracks: Omit<InspectedTrack, 'outline'>[], relations: Relation[]): Proposal[] {
  return tracks.map((track, at): Proposal => {
    if (track.silentShare > 0.999)
      return { track: at, role: 'silent', sureness: 1, because: 'nothing sounds on it' };
    const sum = relations.find((one) => one.kind === 'sum' && one.track === at);
    if (sum?.kind === 'sum')
      return {
        track: at,
        role: 'mix',
        sureness: 0.95,
        because: sumWords(sum),
      };
    const role = roleByName(track.name);
    if (role) return { track: at, role, sureness: 0.7, because: `it is called “${track.name}”` };
    return speechLike(track)
      ? { track: at, role: 'voice', sureness: 0.4, because: 'it has pauses and one channel, as speech has' }
      : { track: at, role: 'unknown', sureness: 0, because: 'neither its name nor its sound says' };
  });
}

/** What a track carries by its name; null where that does not say. */
export function roleByName(name: string | null): Proposal['role'] | null {
  return ROLE_WORDS.find(([words]) => words.test(name ?? ''))?.[1] ?? null;
}

/** Says of which tracks one is the sum; what is not explained by them may be what is looked for. */
export function sumWords({ of, restDb }: Extract<Relation, { kind: 'sum' }>): string {
  const parts = listed(of.map(({ track }) => String(track + 1)));
  return restDb > EXACT_REST_DB
    ? `it is the sum of tracks ${parts}, but for a rest ${levelText(-restDb)} dB below it`
    : `it is the sum of tracks ${parts}`;
}

/** What lossy coding leaves of a sum lies below this (dB). */
const EXACT_REST_DB = -35;

/** Speech pauses, and is mono; music and games go on and are stereo. */
function speechLike({
  sides,
  silentShare,
  noiseFloorDb,
  integratedLufs,
}: Omit<InspectedTrack, 'outline'>): boolean {
  const pauses = silentShare > 0.15 || (integratedLufs ?? 0) - (noiseFloorDb ?? 0) > 25;
  return (sides === 'two alike' || sides === 'one channel') && pauses;
}
