import { reachOf } from '../reach/reach.ts';
import type { Setup, Track } from '../setup/schema.ts';
import { type RoomCause, roomCauses } from './causes.ts';
import type { MeasuredCell } from './cells.ts';
import { codedSources, type Difference, differencesOf } from './compare.ts';
import { type HeardSource, readSounding } from './read.ts';
import type { CodedTrack } from './readChannel.ts';

/** What was read of one source on one track of the setup. */
export type SoundedCell = Omit<MeasuredCell, 'track'> & { track: string };

/** What was read of a recording of a real room, whatever its setup says. */
export interface RoomReading {
  cells: SoundedCell[];
  /** The tracks of the setup that the recording has. */
  tracks: string[];
  /** The sources whose test sound was heard on some track; of the others nothing is known. */
  heard: HeardSource[];
  unheard: string[];
}

/** What a recording of a real room says, beside a setup. */
export interface Sounding extends RoomReading {
  differences: Difference[];
  causes: RoomCause[];
}

/** One track of a recording, with its name. */
export interface RecordedTrack extends CodedTrack {
  name: string | null;
}

/**
 * Reads a recording of a real room, and sets it beside the setup.
 * @param setup whose sources were played with their codes
 * @param today `YYYY-MM-DD`
 */
export async function soundRoom(
  setup: Setup,
  recorded: RecordedTrack[],
  today: string,
  onProgress: (share: number) => void = () => {},
): Promise<Sounding> {
  return besideSetup(setup, await readRoom(setup, recorded, onProgress), today);
}

/** Reads a recording of a real room in which the sources of a setup were played with their codes. */
export async function readRoom(
  setup: Setup,
  recorded: RecordedTrack[],
  onProgress: (share: number) => void = () => {},
): Promise<RoomReading> {
  const tracks = tracksOf(setup, recorded);
  const read = await readSounding(recorded, codedSources(setup), onProgress);
  const cells = read.cells.flatMap((cell): SoundedCell[] => {
    const track = tracks[cell.track];
    return track ? [{ ...cell, track: track.id }] : [];
  });
  return {
    cells: withMicrophonesLevelled(setup, cells),
    tracks: tracks.flatMap((track) => (track ? [track.id] : [])),
    heard: read.heard,
    unheard: read.unheard,
  };
}

/**
 * Sets what was read of a real room beside a setup: where they differ, and why.
 * @param today `YYYY-MM-DD`
 */
export function besideSetup(setup: Setup, reading: RoomReading, today: string): Sounding {
  const { cells, tracks } = reading;
  const heard = new Set(reading.heard.map(({ source }) => source));
  const differences = differencesOf(setup, cells, tracks, heard);
  const causes =
    differences.length === 0
      ? []
      : roomCauses(setup, levelsOf(setup, cells, tracks, heard, differences), today);
  return { ...reading, differences, causes };
}

/**
 * Which track of the sheet each track of a recording is: by its name where all names are known, else by its number; null for
 * more than there are. A recording of fewer tracks without known names begins with those that go into the file.
 */
export function tracksOf(setup: Setup, recorded: { name: string | null }[]): (Track | null)[] {
  const byName = recorded.map(({ name }) => setup.tracks.find((track) => track.name === name) ?? null);
  if (new Set(byName).size === recorded.length && byName.every((track) => track !== null)) return byName;
  const inFile = setup.tracks.filter(({ uses }) => uses.includes('file'));
  const list =
    recorded.length <= inFile.length && recorded.length < setup.tracks.length ? inFile : setup.tracks;
  return recorded.map((_, at) => list[at] ?? null);
}

/** How loud a loudspeaker is at a microphone nobody knows: its levels count against each other, from track to track. */
function withMicrophonesLevelled(setup: Setup, cells: SoundedCell[]): SoundedCell[] {
  const reach = reachOf(setup);
  const offOf = new Map<string, number>();
  for (const { id, kind } of setup.sources) {
    if (kind !== 'microphone') continue;
    const offs = cells
      .filter(({ source }) => source === id)
      .flatMap(({ track, gainDb }) => {
        const arrival = reach.onTrack(id, track);
        return arrival ? [gainDb - arrival.gainDb] : [];
      })
      .sort((a, b) => a - b);
    if (offs.length > 0) offOf.set(id, offs[Math.floor(offs.length / 2)]);
  }
  return cells.map((cell) => ({ ...cell, gainDb: cell.gainDb - (offOf.get(cell.source) ?? 0) }));
}

/** What differs, as it was measured; what does not, as it was computed. */
function levelsOf(
  setup: Setup,
  cells: SoundedCell[],
  tracks: string[],
  heard: ReadonlySet<string>,
  differences: Difference[],
) {
  return setup.sources
    .filter(({ id }) => heard.has(id))
    .flatMap(({ id: source }) =>
      tracks.flatMap((track) => {
        const differs = differences.some(
          (one) =>
            one.source === source &&
            one.track === track &&
            ['arrives', 'missing', 'level'].includes(one.kind),
        );
        if (!differs) return [];
        const cell = cells.find((one) => one.source === source && one.track === track);
        return [{ source, track, gainDb: cell?.gainDb ?? null }];
      }),
    );
}
