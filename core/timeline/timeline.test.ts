import { describe, expect, test } from '@jest/globals';
import { z } from 'zod';
import { chaptersFile } from './chapters.ts';
import { cueListFile } from './cueList.ts';
import { timelineFile } from './otio.ts';

/** The part of OpenTimelineIO's published schemas that is written, each with all of its fields. */
const Time = z.strictObject({
  OTIO_SCHEMA: z.literal('RationalTime.1'),
  rate: z.number().positive(),
  value: z.number().int(),
});
const Range = z.strictObject({ OTIO_SCHEMA: z.literal('TimeRange.1'), duration: Time, start_time: Time });
const named = { metadata: z.strictObject({}), name: z.string() };
const item = { ...named, source_range: Range.nullable(), effects: z.array(z.never()), enabled: z.boolean() };
const Marker = z.strictObject({
  OTIO_SCHEMA: z.literal('Marker.2'),
  ...named,
  color: z.enum(['RED', 'GREEN', 'YELLOW']),
  comment: z.string(),
  marked_range: Range,
});
const Reference = z.strictObject({
  OTIO_SCHEMA: z.literal('ExternalReference.1'),
  ...named,
  available_range: Range,
  available_image_bounds: z.null(),
  target_url: z.string(),
});
const Clip = z.strictObject({
  OTIO_SCHEMA: z.literal('Clip.2'),
  ...item,
  markers: z.array(Marker),
  media_references: z.strictObject({ DEFAULT_MEDIA: Reference }),
  active_media_reference_key: z.literal('DEFAULT_MEDIA'),
});
const Track = z.strictObject({
  OTIO_SCHEMA: z.literal('Track.1'),
  ...item,
  markers: z.array(Marker),
  kind: z.enum(['Video', 'Audio']),
  children: z.array(Clip),
});
const Stack = z.strictObject({
  OTIO_SCHEMA: z.literal('Stack.1'),
  ...item,
  markers: z.array(Marker),
  children: z.array(Track),
});
const Timeline = z.strictObject({
  OTIO_SCHEMA: z.literal('Timeline.1'),
  ...named,
  global_start_time: z.null(),
  tracks: Stack,
});

describe('a timeline', () => {
  const file = timelineFile({
    name: 'Evening',
    lengthS: 10,
    tracks: [
      { name: 'Picture', kind: 'Video', file: '../in & out #1.mkv', isOn: true, rate: 25 },
      { name: 'Voice', kind: 'Audio', file: 'tracks/01 Voice.wav', isOn: true, rate: 48_000 },
      { name: 'Records', kind: 'Audio', file: 'tracks/02 Records.wav', isOn: false, rate: 48_000 },
    ],
    marks: [{ name: 'Records in track 1', comment: '−20 dB', fromS: 2, lengthS: 3, color: 'RED' }],
  });
  const { tracks } = Timeline.parse(JSON.parse(file));

  test('has a track for each file, off where it must not be heard', () => {
    expect(tracks.children.map(({ name, kind, enabled }) => [name, kind, enabled])).toEqual([
      ['Picture', 'Video', true],
      ['Voice', 'Audio', true],
      ['Records', 'Audio', false],
    ]);
    const [picture, voice] = tracks.children.map(({ children }) => children[0]);
    expect(picture.media_references.DEFAULT_MEDIA.target_url).toBe('../in%20%26%20out%20%231.mkv');
    expect(picture.source_range?.duration).toMatchObject({ rate: 25, value: 250 });
    expect(voice.source_range?.duration).toMatchObject({ rate: 48_000, value: 480_000 });
  });

  test('has its marks in frames of the picture', () => {
    const [{ marked_range: range }] = tracks.markers;
    expect([range.start_time.value, range.duration.value, range.start_time.rate]).toEqual([50, 75, 25]);
  });
});

test('chapters are in order, and hold no line or tag of their own', () => {
  const file = chaptersFile([
    { name: 'Later', fromS: 3725.5, untilS: 3730 },
    { name: 'A <b>\nB', fromS: 1, untilS: 2.25 },
  ]);
  expect(file).toBe(
    'WEBVTT\n\n00:00:01.000 --> 00:00:02.250\nA &lt;b&gt; B\n\n01:02:05.500 --> 01:02:10.000\nLater\n',
  );
});

test('a list of records quotes what it must, and no field is a formula', () => {
  const file = cueListFile([
    { record: '=Reed "box"', track: 'Mix, live', fromS: 1, untilS: 3.5, levelDb: -20.04 },
  ]);
  expect(file.split('\r\n')[1]).toBe(`"'=Reed ""box""","Mix, live",1.0,3.5,2.5,-20.0`);
});
