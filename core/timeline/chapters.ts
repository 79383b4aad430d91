import { escaped } from '../words/escaped.ts';

/** A named stretch (s). */
export interface Chapter {
  name: string;
  fromS: number;
  untilS: number;
}

/** Returns chapters as WebVTT (W3C), in the order of their beginnings. */
export function chaptersFile(chapters: Chapter[]): string {
  const cues = [...chapters]
    .sort((a, b) => a.fromS - b.fromS)
    .map(
      ({ name, fromS, untilS }) =>
        `${clock(fromS)} --> ${clock(Math.max(untilS, fromS + 0.001))}\n${plain(name)}\n`,
    );
  return ['WEBVTT\n', ...cues].join('\n');
}

/** A line of text as a cue may hold it. */
function plain(text: string): string {
  return escaped(text.replace(/\s+/g, ' ').trim());
}

function clock(seconds: number): string {
  const ms = Math.max(0, Math.round(seconds * 1000));
  const part = (size: number, most: number, digits: number) =>
    String(Math.floor(ms / size) % most).padStart(digits, '0');
  return `${part(3_600_000, 1e9, 2)}:${part(60_000, 60, 2)}:${part(1000, 60, 2)}.${part(1, 1000, 3)}`;
}
