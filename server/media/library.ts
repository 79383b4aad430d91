import { registerMediabunnyServer } from '@mediabunny/server';

let registered = false;

/**
 * Makes the media library's decoders and encoders available in this thread. A broken file makes a decoder reject
 * twice: to its reader, and once more to nobody; the second time is passed over here, so that it cannot end the
 * process. Any other rejection still does.
 */
export function prepareMediaLibrary(): void {
  if (registered) return;
  registered = true;
  registerMediabunnyServer();
  process.on('unhandledRejection', (reason) => {
    if (reason instanceof Error && reason.constructor.name === 'FFmpegError') return;
    throw reason;
  });
}
