import { newStereo } from '../../core/audio/planes.ts';
import { compileDestinations, hear } from '../../core/engine/destinations.ts';
import { Renderer } from '../../core/engine/renderer.ts';
import { EchoMeter } from '../../core/measure/echo.ts';
import { type MakeFft, withFft } from '../../core/measure/fft.ts';
import { SoundMeter } from '../../core/measure/soundMeter.ts';
import { type Reach, reachOf } from '../../core/reach/reach.ts';
import type { DestinationMeasures } from '../../core/records.ts';
import type { Setup } from '../../core/setup/schema.ts';
import { toMono } from '../../core/signal/mono.ts';
import { loadNoiseReduction } from '../../core/signal/noiseReduction.ts';
import { PORTION_FRAMES, pass, type Visit } from './pass.ts';
import { openStems } from './renderTake.ts';
import { STEM_RATE } from './stem.ts';

/** Renders a setup for everybody who listens, and measures each, without writing anything. */
export async function measureDestinations(
  setup: Setup,
  mediaFiles: Record<string, string>,
  onProgress: (share: number) => void = () => {},
): Promise<DestinationMeasures[]> {
  await loadNoiseReduction();
  return withFft((makeFft) => measureWith(makeFft, setup, mediaFiles, onProgress));
}

async function measureWith(
  makeFft: MakeFft,
  setup: Setup,
  mediaFiles: Record<string, string>,
  onProgress: (share: number) => void,
): Promise<DestinationMeasures[]> {
  const { schedule, destinations } = compileDestinations(setup);
  const renderer = new Renderer(schedule, PORTION_FRAMES);
  const reach = reachOf(setup);
  const stems = await openStems(setup, mediaFiles);
  const heardBy = destinations.map((destination) => {
    const { parts } = destination;
    const isMono = parts.length === 1 && schedule.outputs[parts[0].output].layout === 'mono';
    return {
      destination,
      planes: newStereo(PORTION_FRAMES),
      meter: new SoundMeter(STEM_RATE, isMono ? 1 : 2),
      voices: ownVoicesAt(setup, reach, destination.id).map((source) => ({
        source,
        echo: new EchoMeter(makeFft),
      })),
    };
  });
  const mono = { voice: new Float32Array(PORTION_FRAMES), heard: new Float32Array(PORTION_FRAMES) };
  try {
    const listen: Visit = (inputs, frames) => {
      renderer.render(inputs, frames);
      for (const { destination, planes, meter, voices } of heardBy) {
        hear(renderer.outputs, destination, planes, frames);
        meter.add(planes, frames);
        for (const { source, echo } of voices)
          echo.add(toMono(inputs[source], mono.voice), toMono(planes, mono.heard), frames);
      }
    };
    await pass(stems, listen, { onProgress });
    return heardBy.map(({ destination, meter, voices }) => ({
      destinationId: destination.id,
      ...meter.result(),
      ...(voices.length > 0 && {
        ownVoices: voices.map(({ source, echo }) => ({
          sourceId: setup.sources[source].id,
          copies: echo.copies(),
        })),
      }),
    }));
  } finally {
    await Promise.all(stems.map((stem) => stem?.close()));
  }
}

/** The places of the microphones among the sources that are heard in headphones; none elsewhere. */
function ownVoicesAt(setup: Setup, reach: Reach, destinationId: string): number[] {
  if (reach.destinations.find(({ id }) => id === destinationId)?.kind !== 'headphones') return [];
  return setup.sources.flatMap(({ id, kind, media }, index) =>
    kind === 'microphone' && media && reach.at(id, destinationId) ? [index] : [],
  );
}
