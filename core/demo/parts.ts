import { type ClearancePreset, clearanceOf } from '../setup/clearance.ts';
import type { Source, Track } from '../setup/schema.ts';

/** Returns the file, in the demo's media folder, of each of its sounds. */
export const DEMO_MEDIA = {
  narrator: 'narrator.flac',
  hummingNarrator: 'narrator-with-hum.flac',
  game: 'lock-and-paddle.flac',
  bosun: 'bosun.flac',
  wick: 'wick.flac',
  reedbox: 'reedbox.flac',
  bellbuoy: 'bellbuoy.flac',
  quillpage: 'quillpage.flac',
  minnow: 'minnow.flac',
  pings: 'boathouse-pings.flac',
} as const;

/** Returns the recording of a sound of the demo, as a source names it. */
export function mediaOf(sound: keyof typeof DEMO_MEDIA): NonNullable<Source['media']> {
  return { path: `media/${DEMO_MEDIA[sound]}` };
}

/** A source of the demo, with its sound. */
export function source(
  id: keyof typeof DEMO_MEDIA,
  name: string,
  kind: Source['kind'],
  preset: ClearancePreset,
  more: Partial<Source> = {},
): Source {
  return {
    id,
    name,
    kind,
    clearance: clearanceOf(preset),
    levelDb: 0,
    media: mediaOf(id),
    ...more,
  };
}

/** A track of the demo: 24-bit, stereo unless said otherwise. */
export function track(
  id: string,
  name: string,
  uses: Track['uses'],
  purpose: Track['purpose'],
  more: Partial<Track> = {},
): Track {
  return { id, name, uses, purpose, codec: 'pcm-s24', layout: 'stereo', ...more };
}
