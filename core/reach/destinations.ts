import type { Bearer } from '../setup/bearers.ts';
import { DEFAULT_TRACK_LIMIT, type Setup, type Track } from '../setup/schema.ts';

/**
 * A place where somebody listens. Live and VOD are fed by the track that has the use; every other track of the
 * sheet is a destination of its own (`file`). `sendTo` is what a send must name to reach it, or null when no
 * track has the use.
 */
export interface Destination {
  id: string;
  name: string;
  kind: 'headphones' | 'loudspeakers' | 'friends' | 'other' | 'live' | 'vod' | 'file';
  sendTo: string | null;
  track: Track | null;
  /** The track's number on the sheet, counted from one. */
  trackNumber: number | null;
  targetLufs: number | undefined;
}

/** Returns every destination of the setup: the listed ones first, then the tracks that feed none of those. */
export function destinationsOf(setup: Setup): Destination[] {
  const feeding = new Set<Track>();
  const listed = setup.destinations.map((destination): Destination => {
    const { id, name, kind, targetLufs } = destination;
    if (kind !== 'live' && kind !== 'vod') {
      return { id, name, kind, sendTo: id, track: null, trackNumber: null, targetLufs };
    }
    const track = setup.tracks.find((one) => one.uses.includes(kind)) ?? null;
    if (track) feeding.add(track);
    return {
      id,
      name,
      kind,
      sendTo: track?.id ?? null,
      track,
      trackNumber: numberOf(setup, track),
      targetLufs,
    };
  });
  const files = setup.tracks
    .filter((track) => !feeding.has(track))
    .map((track): Destination => {
      const trackNumber = numberOf(setup, track);
      return {
        id: track.id,
        name: track.name,
        kind: 'file',
        sendTo: track.id,
        track,
        trackNumber,
        targetLufs: undefined,
      };
    });
  return [...listed, ...files];
}

/** What bears the processing of everything that a destination gets: its track, or what is heard there. */
export function wholeOf({ id, track }: Pick<Destination, 'id' | 'track'>): Bearer {
  return track ? { kind: 'track', id: track.id } : { kind: 'destination', id };
}

/** Returns how many tracks the recorder of the setup has. */
export function trackLimitOf(setup: Setup): number {
  return setup.recorder.trackLimit ?? DEFAULT_TRACK_LIMIT;
}

function numberOf(setup: Setup, track: Track | null): number | null {
  return track ? setup.tracks.indexOf(track) + 1 : null;
}
