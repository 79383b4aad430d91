import type { Input } from 'mediabunny';

/** What the media library's search for the next element of a Matroska file cannot move on from (bytes): see below. */
const STUCK_BYTES = 8;

/** The part of the library's reader that is guarded. */
interface RangeReader {
  requestSliceRange(start: number, minLength: number, maxLength: number): unknown;
}

/**
 * Keeps the media library (mediabunny 1.61) from searching a damaged Matroska file for ever. Where it meets junk between
 * elements, it searches byte by byte for the next element, in pieces whose last 8 bytes belong to the next piece. When
 * exactly 8 bytes are left, the piece is not too short for it, and the position does not move. That search alone asks
 * for "0 to n bytes" with n of 8 or less; here the answer is that there is nothing, on which the search ends.
 * @returns the same input
 */
export function endsAtShortRest(input: Input): Input {
  let reader: RangeReader | undefined;
  Object.defineProperty(input, '_reader', {
    configurable: true,
    get: () => reader,
    set(made: RangeReader) {
      const request = made.requestSliceRange.bind(made);
      made.requestSliceRange = (start, minLength, maxLength) =>
        minLength === 0 && maxLength <= STUCK_BYTES ? null : request(start, minLength, maxLength);
      reader = made;
    },
  });
  return input;
}
