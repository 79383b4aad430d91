import noiseReductionUrl from '@echogarden/rnnoise-wasm/rnnoise.wasm?url';
import { BLOCK_FRAMES, SAMPLE_RATE } from '../../core/audio/planes.ts';
import { differInGainsOnly, type Rehearsable } from '../../core/engine/destinations.ts';
import { REPORT, reportLength } from '../../core/engine/rehearsal.ts';
import type { Passage } from '../../core/records.ts';
import { PROCESSOR_NAME, type ProcessorOptions, type ToProcessor } from './messages.ts';
import processorUrl from './rehearsalProcessor.ts?worker&url';
import { type StemReader, stemReader } from './stems.ts';

/** How much sound of each source is held ready (frames), and in what portions it is fetched. */
const RING_FRAMES = 8 * SAMPLE_RATE;
const AHEAD_FRAMES = 5 * SAMPLE_RATE;
const PORTION_FRAMES = SAMPLE_RATE;
const FEED_EVERY_MS = 120;
/** The browser is asked to mix so much ahead (s): enough for a busy computer, and changes are heard within a tenth of a second. */
const AHEAD_S = 0.025;
/** A browser that lets sound begin does so within this time. */
const PERMITTED_MS = 2000;
/** The spectrum of a source has half as many bins. */
export const SPECTRUM_SIZE = 4096;

/** What the screen shows of a rehearsal, and is told about when it changes. */
export interface TransportState {
  status: 'idle' | 'loading' | 'playing' | 'paused' | 'failed';
  message: string | null;
  destination: number;
  loop: Passage | null;
}

/**
 * Plays a setup in the browser: fetches the stems, feeds the engine on the audio thread, and passes on what is changed.
 * Times are seconds of the recordings; inside, a time line runs on through loops.
 */
export class Transport {
  state: TransportState = { status: 'idle', message: null, destination: 0, loop: null };
  /** Momentary, short-term and peak of every destination, and each source's peak: see {@link REPORT}. */
  readonly report: Float64Array;
  readonly endS: number;
  isClosed = false;
  private rehearsable: Rehearsable;
  private readonly stems: (string | null)[];
  private readonly memory: SharedArrayBuffer;
  private readonly listeners = new Set<() => void>();
  private context: AudioContext | null = null;
  private node: AudioWorkletNode | null = null;
  private analyser: AnalyserNode | null = null;
  private lookedAt = -1;
  private readers: (StemReader | null)[] = [];
  private timer = 0;
  private fedUntil: number[] = [];
  private busy: boolean[] = [];
  private prepared: Promise<(StemReader | null)[]> | null = null;
  private opening: Promise<void> | null = null;
  /** The place in the recordings at which the time line begins. */
  private startFrame = 0;
  private epoch = 0;

  /** @param stems the path of each source's recording, in the order of the setup */
  constructor(rehearsable: Rehearsable, stems: (string | null)[], endS: number) {
    this.rehearsable = rehearsable;
    this.stems = stems;
    this.endS = endS;
    this.memory = new SharedArrayBuffer(
      8 * reportLength(rehearsable.destinations.length, rehearsable.schedule.sourceIds.length),
    );
    this.report = new Float64Array(this.memory);
    this.report.fill(Number.NEGATIVE_INFINITY, REPORT.destinations);
    void this.prepare().catch(() => {});
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  /** Starts or goes on. A browser lets sound begin only after a click or a key, so call it from one. */
  async play(): Promise<void> {
    try {
      if (!this.node) this.set({ status: 'loading', message: null });
      this.opening ??= this.open();
      await this.opening;
      await this.permitted();
      if (this.timeS() >= this.endS - 0.05) this.seek(this.state.loop?.fromS ?? 0);
      await this.feed();
      this.send({ do: 'play' });
      this.set({ status: 'playing', message: null });
    } catch (error) {
      this.opening = null;
      this.set({
        status: 'failed',
        message: `This browser does not play it: ${error instanceof Error ? error.message : String(error)}`,
      });
    }
  }

  /** Resolves once the browser lets sound begin; says so when it waits for a click. */
  private async permitted(): Promise<void> {
    const waiting = window.setTimeout(
      () =>
        this.set({
          status: 'paused',
          message: 'The browser lets sound begin only after a click. Press Play.',
        }),
      PERMITTED_MS,
    );
    try {
      await this.context?.resume();
    } finally {
      window.clearTimeout(waiting);
    }
  }

  pause(): void {
    this.send({ do: 'pause' });
    if (this.state.status === 'playing') this.set({ status: 'paused' });
  }

  /** How often the sound broke up, since the page was opened, for the computer could not keep up; null where the browser does not say. */
  dropouts(): number | null {
    const { playbackStats } = (this.context ?? {}) as { playbackStats?: { underrunEvents: number } };
    return playbackStats?.underrunEvents ?? null;
  }

  /** Where in the recordings it is (s). */
  timeS(): number {
    if (!this.node) return this.startFrame / SAMPLE_RATE;
    return this.destinationOf(this.report[REPORT.frame]) / SAMPLE_RATE;
  }

  seek(timeS: number): void {
    const { loop } = this.state;
    if (loop && (timeS < loop.fromS || timeS >= loop.untilS)) this.set({ loop: null });
    this.startFrame = frameOf(Math.max(0, Math.min(timeS, this.endS)));
    this.restart();
  }

  /** Repeats a passage, or (null) goes on from where it is. */
  setLoop(loop: TransportState['loop']): void {
    const now = this.timeS();
    this.set({ loop });
    this.startFrame = frameOf(loop && (now < loop.fromS || now >= loop.untilS) ? loop.fromS : now);
    this.restart();
  }

  listen(destination: number): void {
    this.send({ do: 'listen', destination });
    this.set({ destination });
  }

  /** Chooses the source whose spectrum {@link spectrum} gives, or, counted on from the sources, the destination; −1 for none. */
  look(source: number): void {
    this.lookedAt = source;
    this.send({ do: 'look', source });
  }

  /** Writes the level (dB) of each bin of the source that is looked at; false while nothing plays. */
  spectrum(levels: Float32Array<ArrayBuffer>): boolean {
    if (!this.analyser || this.state.status !== 'playing') return false;
    this.analyser.getFloatFrequencyData(levels);
    return true;
  }

  /** Takes a setup that was changed: gains move at once, another wiring is faded over to. */
  rearrange(rehearsable: Rehearsable): void {
    const before = this.rehearsable;
    this.rehearsable = rehearsable;
    if (!this.node) return;
    if (differInGainsOnly(before.schedule, rehearsable.schedule))
      this.send({ do: 'gains', gains: rehearsable.schedule.operationGain });
    else this.send({ do: 'rearrange', rehearsable });
  }

  /** Goes on in the place of another, which is closed: from where it is, and playing if it does. */
  follow(other: Transport, destination: number): void {
    this.startFrame = frameOf(Math.min(other.timeS(), this.endS));
    this.set({ destination, loop: other.state.loop });
    const isPlaying = other.state.status === 'playing';
    other.close();
    if (isPlaying) void this.play();
  }

  close(): void {
    this.isClosed = true;
    window.clearInterval(this.timer);
    void this.context?.close();
    this.context = null;
    this.node = null;
  }

  /** Has the recordings unpacked before play is pressed; what goes wrong is told then. */
  private prepare(): Promise<(StemReader | null)[]> {
    this.prepared ??= Promise.all(this.stems.map((path) => (path === null ? null : stemReader(path)))).catch(
      (error) => {
        this.prepared = null;
        throw error;
      },
    );
    return this.prepared;
  }

  private async open(): Promise<void> {
    this.readers = await this.prepare();
    const context = new AudioContext({ sampleRate: SAMPLE_RATE, latencyHint: AHEAD_S });
    this.context = context;
    await context.audioWorklet.addModule(processorUrl);
    const noiseReduction = await WebAssembly.compileStreaming(fetch(noiseReductionUrl));
    const processorOptions: ProcessorOptions = {
      rehearsable: this.rehearsable,
      stems: this.stems.map((path) => path !== null),
      ringFrames: RING_FRAMES,
      endFrame: this.lastFrame(),
      report: this.memory,
      noiseReduction,
    };
    this.node = new AudioWorkletNode(context, PROCESSOR_NAME, {
      numberOfInputs: 0,
      numberOfOutputs: 2,
      outputChannelCount: [2, 2],
      processorOptions,
    });
    this.node.onprocessorerror = () =>
      this.set({ status: 'failed', message: 'The sound engine stopped. Reload the page.' });
    this.node.connect(context.destination, 0);
    this.analyser = new AnalyserNode(context, { fftSize: SPECTRUM_SIZE, smoothingTimeConstant: 0.8 });
    this.node.connect(this.analyser, 1);
    context.onstatechange = () => {
      if (context.state !== 'running' && this.state.status === 'playing')
        this.set({ status: 'paused', message: 'The output was taken away. Press play to go on.' });
    };
    this.restart();
    this.send({ do: 'listen', destination: this.state.destination });
    this.send({ do: 'look', source: this.lookedAt });
    this.timer = window.setInterval(
      () => void this.feed().catch((error: Error) => this.fail(error)),
      FEED_EVERY_MS,
    );
  }

  private fail(error: Error): void {
    this.pause();
    this.set({ status: 'failed', message: error.message });
  }

  private restart(): void {
    this.epoch += 1;
    this.fedUntil = this.stems.map(() => 0);
    this.busy = this.stems.map(() => false);
    this.report[REPORT.frame] = 0;
    this.send({ do: 'seek', frame: 0, epoch: this.epoch });
    this.send({ do: 'end', frame: this.lastFrame() });
    void this.feed().catch((error: Error) => this.fail(error));
    for (const listener of this.listeners) listener();
  }

  /** The frame of the time line at which it ends by itself. */
  private lastFrame(): number {
    return this.state.loop ? Number.MAX_SAFE_INTEGER : frameOf(this.endS) - this.startFrame;
  }

  /** Where in the recordings a frame of the time line lies. */
  private destinationOf(lineFrame: number): number {
    const place = this.startFrame + lineFrame;
    const { loop } = this.state;
    if (!loop) return place;
    const [from, until] = [frameOf(loop.fromS), frameOf(loop.untilS)];
    return place < until ? place : from + ((place - until) % (until - from));
  }

  /** Fetches what is played next, for every source that is behind; resolves once all have some. */
  private async feed(): Promise<void> {
    if (this.report[REPORT.frame] >= this.lastFrame() && this.state.status === 'playing') {
      this.set({ status: 'paused' });
      return;
    }
    await Promise.all(this.readers.map((reader, source) => reader && this.feedSource(reader, source)));
  }

  private async feedSource(reader: StemReader, source: number): Promise<void> {
    const epoch = this.epoch;
    if (this.busy[source]) return;
    this.busy[source] = true;
    try {
      while (epoch === this.epoch && this.fedUntil[source] < this.report[REPORT.frame] + AHEAD_FRAMES) {
        const at = this.fedUntil[source];
        const place = this.destinationOf(at);
        const until = this.state.loop ? frameOf(this.state.loop.untilS) : Number.MAX_SAFE_INTEGER;
        const frames = Math.min(PORTION_FRAMES, until - place);
        const [left, right] = await reader(place, frames);
        if (epoch !== this.epoch) return;
        this.fedUntil[source] = at + frames;
        this.send({ do: 'feed', source, at, left, right, epoch }, [left.buffer, right.buffer]);
      }
    } finally {
      if (epoch === this.epoch) this.busy[source] = false;
    }
  }

  private send(message: ToProcessor, transfer: Transferable[] = []): void {
    this.node?.port.postMessage(message, transfer);
  }

  private set(values: Partial<TransportState>): void {
    this.state = { ...this.state, ...values };
    for (const listener of this.listeners) listener();
  }
}

/** Whole blocks, so that a passage always starts where a block does. */
function frameOf(timeS: number): number {
  return Math.round((timeS * SAMPLE_RATE) / BLOCK_FRAMES) * BLOCK_FRAMES;
}
