// Runs on the browser's audio thread.
import { RehearsalEngine } from '../../core/engine/rehearsal.ts';
import { loadNoiseReduction } from '../../core/signal/noiseReduction.ts';
import { PROCESSOR_NAME, type ProcessorOptions, type ToProcessor } from './messages.ts';

declare abstract class AudioWorkletProcessor {
  readonly port: MessagePort;
}
declare function registerProcessor(
  name: string,
  processor: new (options: { processorOptions: ProcessorOptions }) => AudioWorkletProcessor,
): void;

class RehearsalProcessor extends AudioWorkletProcessor {
  /** Null until the noise reduction is there (a moment). */
  private engine: RehearsalEngine | null = null;
  private readonly early: ToProcessor[] = [];
  /** Counts the jumps, so that sound which was sent before the last one is not taken. */
  private epoch = 0;
  private lookedAt = -1;

  constructor({ processorOptions }: { processorOptions: ProcessorOptions }) {
    super();
    this.port.onmessage = ({ data }: MessageEvent<ToProcessor>) => {
      if (this.engine) this.take(this.engine, data);
      else this.early.push(data);
    };
    void loadNoiseReduction(processorOptions.noiseReduction).then(() => this.begin(processorOptions));
  }

  private begin({ rehearsable, stems, ringFrames, endFrame, report }: ProcessorOptions): void {
    const engine = new RehearsalEngine(rehearsable, stems, {
      ringFrames,
      endFrame,
      report: new Float64Array(report),
    });
    for (const message of this.early) this.take(engine, message);
    this.engine = engine;
  }

  process(_inputs: Float32Array[][], [heard, seen]: Float32Array[][]): boolean {
    this.engine?.process(heard[0], heard[1]);
    if (this.lookedAt >= 0) this.engine?.look(this.lookedAt, seen[0], seen[1]);
    return true;
  }

  private take(engine: RehearsalEngine, message: ToProcessor): void {
    switch (message.do) {
      case 'feed':
        if (message.epoch === this.epoch)
          engine.feed(message.source, message.at, message.left, message.right);
        return;
      case 'play':
        engine.playing = true;
        return;
      case 'pause':
        engine.playing = false;
        return;
      case 'seek':
        this.epoch = message.epoch;
        engine.seek(message.frame);
        return;
      case 'gains':
        engine.setGains(message.gains);
        return;
      case 'rearrange':
        engine.rearrange(message.rehearsable);
        return;
      case 'listen':
        engine.listen(message.destination);
        return;
      case 'look':
        this.lookedAt = message.source;
        return;
      case 'end':
        engine.setEnd(message.frame);
    }
  }
}

registerProcessor(PROCESSOR_NAME, RehearsalProcessor);
