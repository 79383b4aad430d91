import { basename } from 'node:path';
import type { UntestedPair } from '../../core/check/verification.ts';
import { AudioFile } from './audioFile.ts';
import { MediaError } from './mediaError.ts';
import type { Piece, SurveyedSound } from './surveyRecording.ts';

/** A sound that must not be in a track: another track of the recording (counted from zero), or a file. */
export interface Reference {
  name: string;
  track: number | null;
  path: string | null;
  /** The tracks that it must not be in, counted from zero. */
  forbiddenIn: number[];
  /**
   * The part of the file that goes in step with the recording from its start, and is not looked for at other moments. Where that is left out, it is
   * the first track of the file, at any moment.
   */
  piece?: Piece;
}

/** Where the sound of a reference is. */
export function soundOf({ track, path, piece }: Reference): SurveyedSound {
  return path === null ? { track: track ?? 0, path: null } : { track: null, path, piece };
}

/** References that can be looked for, with how long their files are (s; null for tracks), and what cannot be said of the others. */
export interface SortedReferences {
  references: Reference[];
  filesS: (number | null)[];
  unreadable: UntestedPair[];
}

/** Sorts out the references whose files cannot be opened: of those nothing can be said, but of the others. */
export async function readable(asked: Reference[]): Promise<SortedReferences> {
  const references: Reference[] = [];
  const filesS: (number | null)[] = [];
  const unreadable: UntestedPair[] = [];
  for (const reference of asked) {
    const opened = reference.path === null ? null : await openedFile(reference.path);
    if (opened instanceof MediaError)
      unreadable.push(
        ...reference.forbiddenIn.map((track) => ({
          reference: reference.name,
          track: track + 1,
          reason: `its file cannot be read: ${problemOf(reference, opened.message)}`,
        })),
      );
    else {
      references.push(reference);
      filesS.push(opened);
    }
  }
  return { references, filesS, unreadable };
}

/** How long a file is (s), or what is wrong with it. */
async function openedFile(path: string): Promise<number | MediaError> {
  try {
    const file = await AudioFile.open(path, { allowCut: true });
    file.close();
    return file.tracks[0].durationS;
  } catch (error) {
    if (error instanceof MediaError) return error;
    throw error;
  }
}

/** What is wrong with the file of a reference, by the name that it goes by. */
export function problemOf({ path, name }: Reference, message: string): string {
  return (path === null ? message : message.replaceAll(basename(path), name)).replace(/\.$/, '');
}

/** Two sounds of one name are told apart by a number. */
export function withOwnNames<Sound extends { name: string }>(sounds: Sound[]): Sound[] {
  const count = new Map<string, number>();
  return sounds.map((sound) => {
    const times = (count.get(sound.name) ?? 0) + 1;
    count.set(sound.name, times);
    return times === 1 ? sound : { ...sound, name: `${sound.name} (${times})` };
  });
}
