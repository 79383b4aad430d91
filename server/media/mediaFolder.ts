import { readdir, realpath, stat } from 'node:fs/promises';
import { basename, extname, join, relative, sep } from 'node:path';
import type { FolderFile } from '../../core/check/records.ts';
import { HttpError } from '../httpError.ts';

/** What may be a recording, by its extension; of the second line, nothing can be read, which is said where it is asked for, and not passed over. */
const EXTENSIONS = new Set(
  [
    'mkv mka webm mp4 m4a m4b m4v mov 3gp wav wave flac mp3 mp2 aac ogg oga ogv opus ts mts m2ts',
    'avi flv wmv asf mpg mpeg vob mxf aif aiff aifc caf w64 wma au ac3 dts ape wv tta',
  ].flatMap((line) => line.split(' ').map((one) => `.${one}`)),
);
/** So many files are listed. */
const MOST_FILES = 5_000;

/** Tells whether a file may be a recording, by its name. */
export function mayBeRecording(name: string): boolean {
  return EXTENSIONS.has(extname(name).toLowerCase()) && !basename(name).startsWith('.');
}

/**
 * Returns the absolute path of a file or folder in the media folder.
 * @throws {HttpError} 403 when it leads out of the folder, by its name or by a link; 404 when it is not there
 */
export async function inFolder(root: string | null, path: string): Promise<string> {
  if (root === null)
    throw new HttpError(
      409,
      'no-media-folder',
      'No media folder is set. Start Northfen with NORTHFEN_MEDIA_DIR set to the folder of your recordings.',
    );
  const [folder, file] = await Promise.all([root, join(root, path)].map((one) => realpath(one))).catch(() => {
    throw new HttpError(
      404,
      'not-found',
      `${path} is not in the media folder any more. Was it moved, or is its disk not connected?`,
    );
  });
  if (file !== folder && !file.startsWith(folder.endsWith(sep) ? folder : folder + sep))
    throw new HttpError(
      403,
      'outside',
      `${path} is outside of the media folder. Northfen reads nothing outside of it.`,
    );
  return file;
}

/** Lists the recordings of a folder and of the folders in it, the newest first; links out of it are passed over. */
export async function listRecordings(root: string): Promise<{ files: FolderFile[]; isCut: boolean }> {
  const entries = await readdir(root, { recursive: true, withFileTypes: true });
  const found: FolderFile[] = [];
  let isCut = false;
  for (const entry of entries) {
    if (!mayBeRecording(entry.name)) continue;
    if (found.length === MOST_FILES) {
      isCut = true;
      break;
    }
    const path = relative(root, join(entry.parentPath, entry.name));
    const file = await inFolder(root, path).catch(() => null);
    const info = file === null ? null : await stat(file).catch(() => null);
    if (info?.isFile())
      found.push({
        path: path.split(sep).join('/'),
        bytes: info.size,
        modifiedAt: info.mtime.toISOString(),
      });
  }
  return { files: found.sort((a, b) => b.modifiedAt.localeCompare(a.modifiedAt)), isCut };
}
