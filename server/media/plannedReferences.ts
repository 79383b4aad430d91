import { stat } from 'node:fs/promises';
import { basename, join } from 'node:path';
import type { PlannedReference } from '../../core/check/plan.ts';
import type { PublishedUse } from '../../core/setup/clearance.ts';
import { HttpError } from '../httpError.ts';
import { inFolder, listRecordings } from './mediaFolder.ts';
import { type Reference, withOwnNames } from './references.ts';

/** The folders in which what a plan names is to be found. */
export interface Folders {
  dataDir: string;
  mediaDir: string | null;
}

/** A reference, and the uses that it is not allowed for. */
export interface FoundReference extends Reference {
  notFor: PublishedUse[];
}

/**
 * Returns what is to be looked for with the files in which it is: a folder stands for every recording in it.
 * @throws {HttpError} when a file is not there or outside of the media folder, or a folder holds no recording or too many
 */
export async function plannedReferences(
  planned: PlannedReference[],
  folders: Folders,
): Promise<FoundReference[]> {
  const found: FoundReference[] = [];
  for (const { place, ...reference } of planned) {
    if (place === null) found.push({ ...reference, path: null });
    else if (place.kind === 'media')
      found.push({ ...reference, path: join(folders.dataDir, 'media', basename(place.path)) });
    else {
      const path = await inFolder(folders.mediaDir, place.path);
      if ((await stat(path)).isFile()) found.push({ ...reference, path });
      else {
        const { files, isCut } = await listRecordings(path);
        if (files.length === 0 || isCut)
          throw new HttpError(
            422,
            'folder-refused',
            files.length === 0
              ? `There is no recording in ${place.path}, so nothing can be looked for. Choose another folder.`
              : `${place.path} holds more than ${files.length} recordings. Choose a smaller folder.`,
          );
        for (const file of files) found.push({ ...reference, name: file.path, path: join(path, file.path) });
      }
    }
  }
  return withOwnNames(found);
}
