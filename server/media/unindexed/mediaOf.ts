import type { FileHandle } from 'node:fs/promises';
import { BOX_HEAD_BYTES, boxAt, boxName, headBytes } from '../boxes.ts';
import { FileBytes, HEADS_ALONE } from '../fileBytes.ts';
import { MediaError } from '../mediaError.ts';

/** What may come behind the media of a file. */
const BEHIND = ['moov', 'mdat', 'free', 'skip', 'wide', 'uuid', 'meta'];

/**
 * Where the media of an MP4 or MOV lie: up to what comes behind them, or to the end of the file where they do not say how long they are, or wrongly.
 * @param leadBytes how far behind their head the first packet begins
 * @throws {MediaError} where it holds none
 */
export async function mediaOf(
  handle: FileHandle,
  leadBytes: number,
  name: string,
): Promise<{ from: number; to: number }> {
  const { size } = await handle.stat();
  const bytes = new FileBytes(handle, size, HEADS_ALONE);
  for (let at = 0; at < size; ) {
    const head = await bytes.at(at, BOX_HEAD_BYTES);
    const box = await boxAt(bytes, at);
    if (head.length === BOX_HEAD_BYTES && boxName(head) === 'mdat') {
      const from = at + headBytes(head) + leadBytes;
      const end = at + (box?.length ?? 0);
      const isEnd = end > from && end < size && BEHIND.includes(boxName(await bytes.at(end, BOX_HEAD_BYTES)));
      return { from, to: isEnd ? end : size };
    }
    if (!box) break;
    at += box.length;
  }
  throw new MediaError(
    'unreadable',
    `${name} is no MP4 or MOV that holds sound or picture. Repair it without another recording.`,
  );
}
