import { open } from 'node:fs/promises';
import { basename } from 'node:path';
import { BOX_HEAD_BYTES, boxAt, boxName } from './boxes.ts';
import { FileBytes, HEADS_ALONE } from './fileBytes.ts';
import { MediaError } from './mediaError.ts';

/** What may lie before sound and picture. */
const BEFORE_MEDIA = ['ftyp', 'free', 'skip', 'wide', 'uuid'];

/** @throws {MediaError} where a file is an MP4 or MOV without an index: its program did not finish it, or its end is missing */
export async function refuseUnfinished(path: string): Promise<void> {
  if (await isUnfinished(path))
    throw new MediaError(
      'unreadable',
      `${basename(path)} has lost its index, or never had one: in MP4 and MOV it comes last and says where sound and picture lie, so Northfen cannot read them. Was it copied here? Copy it again. Did the recording program crash? Keep the file, and repair it with the help of a whole recording made by the same program with the same settings (in the command: --like). Next time, record MKV or MP4 in fragments: those can be read up to the moment of a crash.`,
    );
}

/** Tells whether a file begins as MP4 and MOV do (ISO/IEC 14496-12), holds sound or picture, and nothing that says where in it. */
async function isUnfinished(path: string): Promise<boolean> {
  const handle = await open(path);
  try {
    const { size } = await handle.stat();
    const bytes = new FileBytes(handle, size, HEADS_ALONE);
    for (let at = 0; at < size; ) {
      const name = boxName(await bytes.at(at, BOX_HEAD_BYTES));
      const box = await boxAt(bytes, at);
      // Media without a length go on to the end of the file.
      if (name === 'mdat') return box === null || !(await isDescribed(bytes, at + box.length, size));
      if (!box || !BEFORE_MEDIA.includes(name)) return false;
      at += box.length;
    }
    return false;
  } finally {
    await handle.close();
  }
}

/** Tells whether an index comes from some place on, as one or in fragments. */
async function isDescribed(bytes: FileBytes, from: number, size: number): Promise<boolean> {
  for (let at = from; at < size; ) {
    const box = await boxAt(bytes, at);
    if (!box) return false;
    // An index that breaks off says nothing.
    if (box.name === 'moof' || (box.name === 'moov' && at + box.length <= size)) return true;
    at += box.length;
  }
  return false;
}
