import { basename } from 'node:path';

/** Thrown when a media file cannot be used; the message says what is wrong and what to do. */
export class MediaError extends Error {
  readonly code: 'unreadable' | 'no-audio' | 'empty' | 'cut-off' | 'broken' | 'unsupported';

  constructor(code: MediaError['code'], message: string, options?: ErrorOptions) {
    super(message, options);
    this.name = 'MediaError';
    this.code = code;
  }
}

/**
 * Does something with a recording. What the media library says in its own words when it cannot go on (a plain error, or that it read past an end) is said
 * as a damaged file.
 * @throws {MediaError} in place of such an error; any other is thrown as it is
 */
export async function orDamaged<T>(path: string, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (!(error instanceof RangeError) && (error as object | null)?.constructor !== Error) throw error;
    throw new MediaError(
      'broken',
      `${basename(path)} is damaged. Repair it first; that writes all that can be read.`,
      { cause: error },
    );
  }
}
