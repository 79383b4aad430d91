import type { Doubling } from '../measure/doubling.ts';
import type { Relation } from '../measure/relations.ts';
import type { SoundMeasures } from '../measure/soundMeter.ts';
import type { TrackStats } from '../measure/trackStats.ts';
import { clockText } from '../words/figures.ts';

/** One audio track of a file. `index` counts from zero over the audio tracks alone. */
export interface AudioTrackInfo {
  index: number;
  name: string | null;
  codec: string;
  channels: number;
  sampleRate: number;
  durationS: number;
}

/** An audio track with everything that was measured of it. */
export interface InspectedTrack extends AudioTrackInfo, SoundMeasures, TrackStats {
  /** Mains hum that stands out; null where none does. */
  hum: { hz: 50 | 60; overDb: number } | null;
  /** A second arrival of its own sound; null where none stands out, missing in what was read before this was measured. */
  doubling?: Doubling | null;
  /** For drawing: see `WaveformOutline`. */
  outline: number[];
}

/** What one track of a recording carries, as it seems, and why. */
export interface Proposal {
  track: number;
  role: 'silent' | 'mix' | 'voice' | 'game' | 'music' | 'voice chat' | 'alerts' | 'unknown';
  /** 0 to 1. */
  sureness: number;
  because: string;
}

/** All tracks of a recording, how they go together, and what each seems to carry. */
export interface InspectedTracks {
  tracks: InspectedTrack[];
  relations: Relation[];
  proposals: Proposal[];
  /** Where it breaks off, although it says that it goes on; null where it is whole. (What was read by earlier versions does not say.) */
  breakOff?: BreakOff | null;
}

/** Where a recording breaks off, and how long it says that it is (s). */
export interface BreakOff {
  atS: number;
  promisedS: number;
}

/** Says that a recording, or a file that goes by its name, breaks off. */
export function breakOffWords({ atS, promisedS }: BreakOff, name = 'the recording'): string {
  if (atS === 0) return `${name} holds no sound that can be read`;
  return `${name} breaks off at ${clockText(atS)}, but says that it is ${clockText(promisedS)} long`;
}

/** Says that something was made of no more than is there of a recording that breaks off. */
export function madeOfCutWords(breakOff: BreakOff, name = 'The recording'): string {
  const held = breakOff.atS > 0 ? ': only what is there could be used' : '';
  return `${breakOffWords(breakOff, name)}${held}.`;
}

/** Says that a track carries its own sound twice. */
export function doublingWords({ delayMs, levelDb }: Doubling): string {
  const quieter = Math.round(-levelDb);
  return `heard twice, the second time ${delayMs.toFixed(delayMs < 10 ? 1 : 0)} ms later and ${quieter < 1 ? 'as loud' : `${quieter} dB quieter`}`;
}
