import { isMainThread } from 'node:worker_threads';
import { registerMediabunnyServer } from '@mediabunny/server';
import { Logging, LogLevel } from 'mediabunny';
import { AV_LOG_QUIET, CodecContext, type Frame, Log, type Packet } from 'node-av';

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
  // What is wrong with a file is said by our own errors; the library and the decoders would write it to the terminal as well.
  Logging.level = LogLevel.Silent;
  Log.setLevel(AV_LOG_QUIET);
  if (!isMainThread) codeAtOnce();
  process.on('unhandledRejection', (reason) => {
    if (reason instanceof Error && reason.constructor.name === 'FFmpegError') return;
    throw reason;
  });
}

/**
 * Lets this thread code each packet at once instead of handing it on to the process's pool of threads. Native work that
 * is still in the pool when its thread ends would end the whole process; and a worker thread has nothing else to do.
 */
function codeAtOnce(): void {
  Object.assign(CodecContext.prototype, {
    async sendPacket(this: CodecContext, packet: Packet | null) {
      return this.sendPacketSync(packet);
    },
    async receiveFrame(this: CodecContext, frame: Frame) {
      return this.receiveFrameSync(frame);
    },
    async sendFrame(this: CodecContext, frame: Frame | null) {
      return this.sendFrameSync(frame);
    },
    async receivePacket(this: CodecContext, packet: Packet) {
      return this.receivePacketSync(packet);
    },
    async open2(this: CodecContext, ...args: Parameters<CodecContext['open2Sync']>) {
      return this.open2Sync(...args);
    },
  });
}
