/**
 * Writes editing timelines in OpenTimelineIO’s own file format: JSON, each object with the name and version of its schema
 * (https://opentimelineio.readthedocs.io, “OpenTimelineIO Schema”: Timeline.1, Stack.1, Track.1, Clip.2, Marker.2).
 */

/** A file on a timeline. */
export interface TimelineTrack {
  name: string;
  kind: 'Video' | 'Audio';
  /** Where the file is, as seen from the timeline’s own folder, with / between names; `..` leads up. */
  file: string;
  /** Whether the track is on: what must not be published is off. */
  isOn: boolean;
  /** Frames in a second: of the picture, or of the sound. */
  rate: number;
}

/** A named moment or stretch of a timeline (s). */
export interface TimelineMark {
  name: string;
  comment: string;
  fromS: number;
  lengthS: number;
  color: 'RED' | 'GREEN' | 'YELLOW';
}

export interface TimelinePlan {
  name: string;
  lengthS: number;
  tracks: TimelineTrack[];
  marks: TimelineMark[];
}

/** Marks lie on the timeline at this rate where it has no picture (a thousandth of a second). */
const MARK_RATE = 1000;

/** Returns a timeline with one track for each file, all from its start and as long as it is. */
export function timelineFile({ name, lengthS, tracks, marks }: TimelinePlan): string {
  const rate = tracks.find(({ kind }) => kind === 'Video')?.rate ?? MARK_RATE;
  const timeline = {
    ...thing('Timeline.1', name),
    global_start_time: null,
    tracks: {
      ...item('Stack.1', 'tracks', true),
      markers: marks.map((mark) => ({
        ...thing('Marker.2', mark.name),
        color: mark.color,
        comment: mark.comment,
        marked_range: range(mark.fromS, mark.lengthS, rate),
      })),
      children: tracks.map((track) => ({
        ...item('Track.1', track.name, track.isOn),
        kind: track.kind,
        children: [
          {
            ...item('Clip.2', track.name, true),
            source_range: range(0, lengthS, track.rate),
            media_references: {
              DEFAULT_MEDIA: {
                ...thing('ExternalReference.1', track.name),
                available_range: range(0, lengthS, track.rate),
                available_image_bounds: null,
                target_url: track.file.split('/').map(encodeURIComponent).join('/'),
              },
            },
            active_media_reference_key: 'DEFAULT_MEDIA',
          },
        ],
      })),
    },
  };
  return `${JSON.stringify(timeline, null, 2)}\n`;
}

function thing(schema: string, name: string) {
  return { OTIO_SCHEMA: schema, metadata: {}, name };
}

function item(schema: string, name: string, enabled: boolean) {
  return { ...thing(schema, name), source_range: null, effects: [], markers: [], enabled };
}

function range(fromS: number, lengthS: number, rate: number) {
  return {
    OTIO_SCHEMA: 'TimeRange.1',
    duration: time(lengthS, rate),
    start_time: time(fromS, rate),
  };
}

function time(seconds: number, rate: number) {
  return { OTIO_SCHEMA: 'RationalTime.1', rate, value: Math.round(seconds * rate) };
}
