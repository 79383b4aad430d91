import { rm } from 'node:fs/promises';
import { compile } from '../../core/engine/compile.ts';
import { Renderer } from '../../core/engine/renderer.ts';
import { own } from '../../core/setup/own.ts';
import type { Setup, Source } from '../../core/setup/schema.ts';
import { loadNoiseReduction } from '../../core/signal/noiseReduction.ts';
import { MediaError } from './mediaError.ts';
import { PORTION_FRAMES, pass, type Visit } from './pass.ts';
import { STEM_RATE, Stem } from './stem.ts';
import { TakeWriter } from './takeWriter.ts';

/** What a render needs to know. */
export interface RenderRequest {
  setup: Setup;
  /** The file of each source that has one, by source id. */
  mediaFiles: Record<string, string>;
  outPath: string;
  /** Pretends that the disk is full beyond this many bytes. */
  spaceBytes?: number;
  /** Called with the share that is done, 0 to 1. */
  onProgress?: (share: number) => void;
}

/**
 * Renders every track of the setup's sheet into one Matroska file, as long as the longest source. Sources without
 * media are silent.
 * @returns the length in seconds
 * @throws {MediaError} when no source has media, or a file does not decode; {DiskFullError}. No file is left then
 */
export async function renderTake(request: RenderRequest): Promise<number> {
  const { setup, mediaFiles, outPath, onProgress = () => {} } = request;
  if (setup.tracks.length === 0)
    throw new MediaError(
      'empty',
      'The track sheet is empty, so there is nothing to record. Add a track first.',
    );
  const sources = setup.sources.filter((source) => own(mediaFiles, source.id) !== undefined);
  if (sources.length === 0) {
    throw new MediaError(
      'empty',
      'No source has a recording to rehearse with. Add one on Sources, then render again.',
    );
  }
  await loadNoiseReduction();
  const stems = await openStems(setup, mediaFiles);
  try {
    const writer = await TakeWriter.create(outPath, setup.tracks, { spaceBytes: request.spaceBytes });
    try {
      const frames = await mixInto(writer, setup, stems, longestOf(stems), onProgress);
      if (frames === 0)
        throw new MediaError(
          'empty',
          'The recordings of all sources are 0 seconds long. Choose longer ones.',
        );
      await writer.finish();
      return frames / STEM_RATE;
    } catch (error) {
      await writer.cancel().catch(() => {});
      throw error;
    }
  } catch (error) {
    await rm(outPath, { force: true });
    throw error;
  } finally {
    await Promise.all(stems.map((stem) => stem?.close()));
  }
}

/** Opens the stem of each source, or null where it has none; an error names the source. */
export async function openStems(setup: Setup, mediaFiles: Record<string, string>): Promise<(Stem | null)[]> {
  const stems: (Stem | null)[] = [];
  try {
    for (const source of setup.sources) stems.push(await openStem(source, own(mediaFiles, source.id)));
    return stems;
  } catch (error) {
    await Promise.all(stems.map((stem) => stem?.close()));
    throw error;
  }
}

async function openStem(source: Source, path: string | undefined): Promise<Stem | null> {
  if (path === undefined) return null;
  try {
    return await Stem.open(path, 0, { allowCut: true });
  } catch (error) {
    if (error instanceof MediaError)
      throw new MediaError(error.code, `The recording of ${source.name}: ${error.message}`);
    throw error;
  }
}

function longestOf(stems: (Stem | null)[]): number {
  return Math.max(...stems.map((stem) => stem?.expectedS ?? 0));
}

async function mixInto(
  writer: TakeWriter,
  setup: Setup,
  stems: (Stem | null)[],
  expectedS: number,
  onProgress: (share: number) => void,
): Promise<number> {
  const schedule = compile(setup, { only: 'tracks' });
  const { outputs } = schedule;
  const renderer = new Renderer(schedule, PORTION_FRAMES);
  const planes = setup.tracks.map(({ id }) =>
    outputs.flatMap((output, index) => (output.id === id ? renderer.outputs[index] : [])),
  );
  const mix: Visit = async (inputs, frames) => {
    renderer.render(inputs, frames);
    await writer.add(planes, frames);
  };
  return pass(stems, mix, { expectedS, onProgress });
}
