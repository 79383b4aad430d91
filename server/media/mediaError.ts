/** Thrown when a media file cannot be used; the message says what is wrong and what to do. */
export class MediaError extends Error {
  readonly code: 'unreadable' | 'no-audio' | 'empty' | 'cut-off' | 'broken' | 'unsupported';

  constructor(code: MediaError['code'], message: string, options?: ErrorOptions) {
    super(message, options);
    this.name = 'MediaError';
    this.code = code;
  }
}
