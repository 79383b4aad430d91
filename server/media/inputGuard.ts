import type { Input } from 'mediabunny';

/** What the media library's search for the next element of a Matroska file cannot move on from (bytes): see below. */
const STUCK_BYTES = 8;

/** The part of the library's reader that is guarded. What it reads may be there at once or later. */
interface RangeReader {
  requestSliceRange(start: number, minLength: number, maxLength: number): Slice | Promise<Slice>;
}
type Slice = { length: number } | null;

/**
 * Keeps the media library (mediabunny 1.61) from searching a damaged Matroska file for ever. Where it meets junk between
 * elements, it searches byte by byte for the next element, in pieces whose last 8 bytes belong to the next piece. When
 * exactly 8 bytes are left, of the file or of what it searches, the piece is not too short for it, and the position does not
 * move. That search alone asks for pieces of any length, from 0 on; where it would get 8 bytes or less, it is told that there
 * is nothing, on which it ends.
 * @returns the same input
 */
export function endsAtShortRest(input: Input): Input {
  let reader: RangeReader | undefined;
  Object.defineProperty(input, '_reader', {
    configurable: true,
    get: () => reader,
    set(made: RangeReader) {
      const request = made.requestSliceRange.bind(made);
      made.requestSliceRange = (start, minLength, maxLength) => {
        const found = request(start, minLength, maxLength);
        if (minLength > 0) return found;
        return found instanceof Promise ? found.then(longEnough) : longEnough(found);
      };
      reader = made;
    },
  });
  return input;
}

function longEnough(slice: Slice): Slice {
  return slice && slice.length > STUCK_BYTES ? slice : null;
}
