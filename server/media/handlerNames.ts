import { open } from 'node:fs/promises';

/** Boxes that hold those that are looked for (ISO/IEC 14496-12). */
const HOLDING = new Set(['moov', 'trak', 'mdia']);
const BOX_HEAD = 8;
/** In a handler box: version and flags, a reserved word, the handler, three reserved words; then its name, up to its end. */
const NAME_AT = 24;

/**
 * Writes the names of tracks where inspectors and editors read them in MP4 and MOV, beside where the media library writes them: the names of
 * their handlers. There is room for as long a name as stands there; a longer one is cut.
 * @param names in the order of the tracks; null leaves a name as it is
 */
export async function nameHandlers(path: string, names: (string | null)[]): Promise<void> {
  const handle = await open(path, 'r+');
  try {
    const { size } = await handle.stat();
    const head = Buffer.alloc(16);
    for (let at = 0; at + BOX_HEAD <= size; ) {
      await handle.read(head, 0, 16, at);
      const small = head.readUInt32BE(0);
      const length = small === 1 ? Number(head.readBigUInt64BE(8)) : small === 0 ? size - at : small;
      if (length < BOX_HEAD) return;
      if (head.toString('latin1', 4, 8) === 'moov') {
        const moov = Buffer.alloc(length);
        await handle.read(moov, 0, length, at);
        rename(moov, names);
        await handle.write(moov, 0, length, at);
        return;
      }
      at += length;
    }
  } finally {
    await handle.close();
  }
}

function rename(moov: Buffer, names: (string | null)[]): void {
  let track = -1;
  const walk = (from: number, to: number) => {
    for (let at = from; at + BOX_HEAD <= to; ) {
      const length = moov.readUInt32BE(at);
      if (length < BOX_HEAD || at + length > to) return;
      const kind = moov.toString('latin1', at + 4, at + 8);
      if (kind === 'trak') track += 1;
      if (HOLDING.has(kind)) walk(at + BOX_HEAD, at + length);
      const name = kind === 'hdlr' ? names[track] : null;
      if (name) {
        const place = moov.subarray(at + BOX_HEAD + NAME_AT, at + length).fill(0);
        place.write(fitting(name, place.length - 1), 0, 'utf8');
      }
      at += length;
    }
  };
  walk(0, moov.length);
}

/** As much of a name as fits into so many bytes. */
function fitting(name: string, bytes: number): string {
  const letters = Array.from(name);
  while (Buffer.byteLength(letters.join('')) > bytes) letters.pop();
  return letters.join('');
}
