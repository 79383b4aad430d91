// Runs on the browser's audio thread.
import { RehearsalEngine } from '../../core/engine/rehearsal.ts';
import { PROCESSOR_NAME, type ProcessorOptions, type ToProcessor } from './messages.ts';

declare abstract class AudioWorkletProcessor {
  readonly port: MessagePort;
}
declare function registerProcessor(
  name: string,
  processor: new (options: { processorOptions: ProcessorOptions }) => AudioWorkletProcessor,
): void;

class RehearsalProcessor extends AudioWorkletProcessor {
  private readonly engine: RehearsalEngine;
  /** Counts the jumps, so that sound which was sent before the last one is not taken. */
  private epoch = 0;

  constructor({ processorOptions }: { processorOptions: ProcessorOptions }) {
    super();
    const { rehearsable, stems, ringFrames, endFrame, report } = processorOptions;
    this.engine = new RehearsalEngine(rehearsable, stems, {
      ringFrames,
      endFrame,
      report: new Float64Array(report),
    });
    this.port.onmessage = ({ data }: MessageEvent<ToProcessor>) => this.take(data);
  }

  process(_inputs: Float32Array[][], [output]: Float32Array[][]): boolean {
    this.engine.process(output[0], output[1]);
    return true;
  }

  private take(message: ToProcessor): void {
    const { engine } = this;
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
        engine.listen(message.ear);
        return;
      case 'end':
        engine.setEnd(message.frame);
    }
  }
}

registerProcessor(PROCESSOR_NAME, RehearsalProcessor);
