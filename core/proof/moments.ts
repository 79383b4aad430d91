import { BLOCK_S, MOMENTARY_BLOCKS, meansOf } from '../measure/covariance.ts';
import { meanAbove, powerOf } from '../measure/loudness.ts';
import type { Source } from '../setup/schema.ts';
import { listed } from '../words/figures.ts';

/**
 * Above −50 LUFS (momentary; here as a power) a source counts as sounding, unless that is more than 20 LU below what it
 * sounds like in the mean: the noise or the hum of its pauses.
 */
const SOUNDING_POWER = powerOf(-50);
const PAUSE_RATIO = 100;
/** What sounds again within this time (blocks) has not stopped: a breath, a gap between words. */
const BREATH_BLOCKS = 8;
/** Talking at once counts from this length on (blocks). */
const AT_ONCE_BLOCKS = 8;
/** Of those, the longest are listed. */
const MOST_AT_ONCE = 4;

/** Somebody who is to hear a moment hears what comes before it, too (s). */
export const LEAD_S = 2;

/** The time (s) from which a moment is heard. */
export function leadingTo(momentS: number): number {
  return Math.max(0, momentS - LEAD_S);
}

/** A passage worth hearing: an alert, or voices on top of each other. */
export interface Moment {
  fromS: number;
  untilS: number;
  text: string;
}

/** A source and its K-weighted power in each 100 ms. */
export interface SourceCourse {
  source: Pick<Source, 'id' | 'name' | 'kind'>;
  powers: Float64Array;
}

/** Tells for each 100 ms whether something sounds; short pauses are bridged. */
export function soundingBlocks(powers: Float64Array): Uint8Array {
  const sounding = new Uint8Array(powers.length);
  const means = meansOf(powers, MOMENTARY_BLOCKS);
  const threshold = Math.max(SOUNDING_POWER, meanAbove(means, SOUNDING_POWER) / PAUSE_RATIO);
  let until = Number.NEGATIVE_INFINITY;
  for (let block = 0; block < means.length; block++) {
    if (means[block] < threshold) continue;
    const end = block + MOMENTARY_BLOCKS;
    for (let at = block < until + BREATH_BLOCKS ? until : block; at < end; at++) sounding[at] = 1;
    until = end;
  }
  return sounding;
}

/** Finds the passages in which an alert sounds, and the longest in which as many people as ever talk at once, in their order. */
export function momentsOf(courses: SourceCourse[]): Moment[] {
  const active = courses.map(({ source, powers }) => ({ source, sounding: soundingBlocks(powers) }));
  const voices = active.filter(({ source }) => source.kind === 'microphone' || source.kind === 'voice chat');
  const alerts = active.filter(({ source }) => source.kind === 'alerts');
  const moments = [
    ...alerts.flatMap(({ source, sounding }) =>
      runsOf(sounding, 1).map(([from, until]) => {
        const under = voices.filter((voice) => voice.sounding.subarray(from, until).includes(1));
        const text = under.length > 0 ? `${source.name} over ${namesOf(under)}` : `${source.name} sounds`;
        return momentAt(from, until, text);
      }),
    ),
    ...talkingAtOnce(voices),
  ];
  return moments.sort((a, b) => a.fromS - b.fromS);
}

type Active = { source: SourceCourse['source']; sounding: Uint8Array };

function talkingAtOnce(voices: Active[]): Moment[] {
  if (voices.length < 2) return [];
  const blocks = Math.max(...voices.map(({ sounding }) => sounding.length));
  const counts = Uint8Array.from({ length: blocks }, (_, block) =>
    voices.reduce((sum, { sounding }) => sum + (sounding[block] ?? 0), 0),
  );
  for (let most = voices.length; most >= 2; most--) {
    const together = counts.map((count) => (count >= most ? 1 : 0));
    const found = runsOf(together, AT_ONCE_BLOCKS).sort((a, b) => b[1] - b[0] - (a[1] - a[0]));
    if (found.length === 0) continue;
    return found.slice(0, MOST_AT_ONCE).map(([from, until]) => {
      const talking = voices.filter(({ sounding }) => sounding.subarray(from, until).includes(1));
      return momentAt(from, until, `${namesOf(talking)} talk at once`);
    });
  }
  return [];
}

/** The stretches of ones that are at least so long. */
function runsOf(blocks: Uint8Array, least: number): [from: number, until: number][] {
  const runs: [number, number][] = [];
  for (let at = blocks.indexOf(1); at >= 0; ) {
    const end = blocks.indexOf(0, at);
    const until = end < 0 ? blocks.length : end;
    if (until - at >= least) runs.push([at, until]);
    at = end < 0 ? -1 : blocks.indexOf(1, end);
  }
  return runs;
}

function momentAt(from: number, until: number, text: string): Moment {
  return { fromS: from * BLOCK_S, untilS: until * BLOCK_S, text };
}

function namesOf(list: Active[]): string {
  return listed(list.map(({ source }) => source.name));
}
