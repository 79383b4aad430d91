import type { Page } from '@playwright/test';
import { TakeWriter } from '../server/media/takeWriter.ts';

const RATE = 48_000;
/** Runs on the audio thread: passes on what comes in, in portions of 38 blocks (0.1 s), with the frame that each begins at. */
const RECORDER = `
class Recorder extends AudioWorkletProcessor {
  planes = [new Float32Array(4864), new Float32Array(4864)];
  filled = 0;
  process([input]) {
    for (const side of [0, 1]) if (input[side]) this.planes[side].set(input[side], this.filled);
    this.filled += 128;
    if (this.filled === 4864) {
      this.port.postMessage({ frame: currentFrame + 128 - 4864, planes: this.planes.map((one) => one.slice()) });
      for (const plane of this.planes) plane.fill(0);
      this.filled = 0;
    }
    return true;
  }
}
registerProcessor('recorder-of-the-tests', Recorder);
`;

/** What a page keeps of the sound that it plays. */
interface Recorded {
  recorded: { frame: number; planes: Float32Array[] }[];
  /** The frame of the audio clock at each key that was pressed. */
  keysAt: number[];
}

/** A passage of what a page played: both sides, and the frame of the audio clock that it begins at. */
export interface Passage {
  frame: number;
  left: Float32Array;
  right: Float32Array;
}

/**
 * Has a page record what its audio thread sends to the loudspeakers, sample by sample. Call it before the page is opened,
 * in a test with `bypassCSP`, since the recorder is none of the server's files.
 */
export async function recordAudio(page: Page): Promise<void> {
  await page.addInitScript((recorderText) => {
    const kept: Recorded = { recorded: [], keysAt: [] };
    Object.assign(window, kept);
    const connect = AudioNode.prototype.connect as (...args: unknown[]) => AudioNode;
    AudioNode.prototype.connect = function (this: AudioNode, ...args: unknown[]) {
      if (this instanceof AudioWorkletNode && args[0] instanceof AudioDestinationNode) {
        const { context } = this;
        const url = URL.createObjectURL(new Blob([recorderText], { type: 'text/javascript' }));
        void context.audioWorklet.addModule(url).then(() => {
          const recorder = new AudioWorkletNode(context, 'recorder-of-the-tests');
          recorder.port.onmessage = ({ data }) => kept.recorded.push(data);
          connect.call(this, recorder, 0);
          connect.call(recorder, context.destination);
        });
        window.addEventListener(
          'keydown',
          () => kept.keysAt.push(Math.round(context.currentTime * context.sampleRate)),
          true,
        );
      }
      return connect.apply(this, args);
    } as typeof AudioNode.prototype.connect;
  }, RECORDER);
}

/** Forgets what was recorded so far. */
export async function startAnew(page: Page): Promise<void> {
  await page.evaluate(() => {
    const kept = window as unknown as Recorded;
    kept.recorded.length = 0;
    kept.keysAt.length = 0;
  });
}

/** The frames of the audio clock at which keys were pressed since {@link startAnew}. */
export function keyFrames(page: Page): Promise<number[]> {
  return page.evaluate(() => (window as unknown as Recorded).keysAt);
}

/** Takes what was recorded since {@link startAnew}. */
export async function recordedSoFar(page: Page): Promise<Passage> {
  const { frame, packed } = await page.evaluate(() => {
    const { recorded } = window as unknown as Recorded;
    let text = '';
    for (const { planes } of recorded)
      for (const plane of planes) {
        const bytes = new Uint8Array(plane.buffer);
        for (let at = 0; at < bytes.length; at += 8192)
          text += String.fromCharCode(...bytes.subarray(at, at + 8192));
      }
    return { frame: recorded[0]?.frame ?? 0, packed: btoa(text) };
  });
  const bytes = Buffer.from(packed, 'base64');
  const values = new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length));
  const portion = 4864;
  const left = new Float32Array(values.length / 2);
  const right = new Float32Array(values.length / 2);
  for (let at = 0, to = 0; at < values.length; at += 2 * portion, to += portion) {
    left.set(values.subarray(at, at + portion), to);
    right.set(values.subarray(at + portion, at + 2 * portion), to);
  }
  return { frame, left, right };
}

/** Records for so long (s of the page's time), from now on. */
export async function record(page: Page, seconds: number): Promise<Passage> {
  await startAnew(page);
  await page.waitForTimeout(seconds * 1000);
  return recordedSoFar(page);
}

/** Writes a passage as a WAV file (24-bit); a mono one from its left side, which is as its right. */
export async function writeWav(
  path: string,
  { left, right }: Pick<Passage, 'left' | 'right'>,
  layout: 'mono' | 'stereo' = 'stereo',
): Promise<void> {
  const writer = await TakeWriter.create(path, [{ name: 'Heard', codec: 'pcm-s24', layout }], {
    container: 'wav',
  });
  await writer.add([[left, right]], left.length);
  await writer.finish();
}

/** The level of one frequency in a passage (dBFS of a sine). */
export function levelAt(hz: number, { left }: Passage): number {
  let real = 0;
  let imaginary = 0;
  for (let i = 0; i < left.length; i++) {
    const window = 1 - Math.cos((2 * Math.PI * i) / left.length);
    real += left[i] * window * Math.cos((2 * Math.PI * hz * i) / RATE);
    imaginary += left[i] * window * Math.sin((2 * Math.PI * hz * i) / RATE);
  }
  return 20 * Math.log10((2 * Math.hypot(real, imaginary)) / left.length);
}
