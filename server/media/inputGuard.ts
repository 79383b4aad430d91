import type { Input } from 'mediabunny';

/** What the media library's search for the next element of a Matroska file cannot move on from (bytes): see below. */
const STUCK_BYTES = 8;
/** The name of an element that it looks for, and the longest number behind it (bytes). */
const NAME_BYTES = 4;
const MOST_NUMBER_BYTES = 8;

/** The part of the library's reader that is guarded. What it reads may be there at once or later. */
interface RangeReader {
  requestSliceRange(start: number, minLength: number, maxLength: number): Slice | Promise<Slice>;
}
/** Bytes of the file from `start` to `end`; the first of `bytes` is that at `offset`. */
interface FoundSlice {
  bytes: Uint8Array;
  view: DataView;
  offset: number;
  start: number;
  readonly length: number;
  filePos: number;
}
type Slice = FoundSlice | null;

/**
 * Keeps the media library (mediabunny 1.61) from searching a damaged Matroska file for ever. Where it meets junk between
 * elements, it searches byte by byte for the next element; that search alone asks for pieces of any length, from 0 on.
 * - The last 8 bytes of each piece belong to the next one. When exactly 8 bytes are left, of the file or of what it searches, the
 *   piece is not too short for it, and the position does not move: it is told that there is nothing, on which it ends.
 * - Where an element's name is there, but not how long it is, it finds the same name again and again: the name is blanked, so
 *   that it finds the next.
 * @returns the same input
 */
export function guarded(input: Input): Input {
  let reader: RangeReader | undefined;
  Object.defineProperty(input, '_reader', {
    configurable: true,
    get: () => reader,
    set(made: RangeReader) {
      const request = made.requestSliceRange.bind(made);
      made.requestSliceRange = (start, minLength, maxLength) => {
        const found = request(start, minLength, maxLength);
        if (minLength > 0) return found;
        return found instanceof Promise ? found.then(searchable) : searchable(found);
      };
      reader = made;
    },
  });
  return input;
}

function searchable(slice: Slice): Slice {
  if (!slice || slice.length <= STUCK_BYTES) return null;
  const at = slice.start - slice.offset;
  const number = slice.bytes[at + NAME_BYTES];
  const numberBytes = Math.clz32(number) - 23;
  const isWhole = numberBytes <= MOST_NUMBER_BYTES && NAME_BYTES + numberBytes <= slice.length;
  return isWhole ? slice : blanked(slice);
}

/** A copy without the name at its start. The bytes themselves are kept by the library, for others to read. */
function blanked(slice: FoundSlice): FoundSlice {
  const at = slice.start - slice.offset;
  slice.bytes = slice.bytes.slice(at, at + slice.length).fill(0, 0, 1);
  slice.view = new DataView(slice.bytes.buffer);
  slice.offset = slice.start;
  slice.filePos = slice.start;
  return slice;
}
