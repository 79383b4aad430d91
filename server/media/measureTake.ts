import { newStereo, type Stereo } from '../../core/audio/planes.ts';
import { SourceChains } from '../../core/engine/sourceChains.ts';
import { type MakeFft, withFft } from '../../core/measure/fft.ts';
import { PresenceSurvey } from '../../core/measure/presence/survey.ts';
import { SoundMeter } from '../../core/measure/soundMeter.ts';
import { WaveformOutline } from '../../core/measure/waveform.ts';
import type { Measured } from '../../core/proof/proof.ts';
import type { TrackMeasures } from '../../core/records.ts';
import { heardFoldOf } from '../../core/setup/channels.ts';
import { own } from '../../core/setup/own.ts';
import type { Setup } from '../../core/setup/schema.ts';
import { loadNoiseReduction } from '../../core/signal/noiseReduction.ts';
import { AudioFile } from './audioFile.ts';
import { PORTION_FRAMES, pass, readAll } from './pass.ts';
import { openStems } from './renderTake.ts';
import { STEM_RATE, Stem } from './stem.ts';

/** A drawn outline has about this many values. */
const OUTLINE_VALUES = 1200;

/** What was measured of some tracks of a take: each by itself, and every source looked for in each. */
export interface TakeMeasures {
  tracks: TrackMeasures[];
  presence: Measured[];
}

export interface MeasureRequest {
  setup: Setup;
  /** Absolute paths by source id. */
  mediaFiles: Record<string, string>;
  takePath: string;
  durationS: number;
  /** The tracks of the sheet to measure. */
  trackIds: string[];
  onProgress?: (share: number) => void;
}

/**
 * Reads some tracks of a written take once, beside the stems of all sources that have one. Measures loudness, true peak
 * and outline of each track, and for every source whether it is in it. Of a multichannel track its fold-down is measured.
 */
export async function measureTake(request: MeasureRequest): Promise<TakeMeasures> {
  await loadNoiseReduction();
  return withFft((makeFft) => measureWith(makeFft, request));
}

async function measureWith(makeFft: MakeFft, request: MeasureRequest): Promise<TakeMeasures> {
  const { setup, mediaFiles, durationS } = request;
  const tracks = setup.tracks.filter((track) => request.trackIds.includes(track.id));
  const sources = setup.sources.filter((source) => own(mediaFiles, source.id) !== undefined);
  const meters = tracks.map((track) => new TrackMeter(durationS, track.layout === 'mono' ? 1 : 2));
  const survey = new PresenceSurvey(makeFft, sources.length, tracks.length);
  await readTake(request, tracks, sources, (trackPlanes, sourcePlanes, frames) => {
    meters.forEach((meter, index) => {
      meter.add(trackPlanes[index], frames);
    });
    survey.add(sourcePlanes, trackPlanes, frames);
  });
  const found = survey.results();
  return {
    tracks: tracks.map((track, index) => ({ trackId: track.id, ...meters[index].result() })),
    presence: sources.flatMap((source, s) =>
      tracks.map((track, t) => ({ sourceId: source.id, trackId: track.id, presence: found[s][t] })),
    ),
  };
}

/** Goes through tracks of a take and some sources (processed as they are for everybody) in step, portion by portion. */
async function readTake(
  { setup, mediaFiles, takePath, durationS, onProgress = () => {} }: MeasureRequest,
  tracks: Setup['tracks'],
  sources: Setup['sources'],
  visit: (tracks: Stereo[], sources: Stereo[], frames: number) => void,
): Promise<void> {
  const take = await AudioFile.open(takePath);
  const trackStems = tracks.map((track) =>
    Stem.of(take, setup.tracks.indexOf(track), { fold: heardFoldOf(setup, track) ?? undefined }),
  );
  const sourceStems: (Stem | null)[] = [];
  try {
    sourceStems.push(...(await openStems({ ...setup, sources }, mediaFiles)));
    const sourcePlanes = sources.map(() => newStereo(PORTION_FRAMES));
    const chains = new SourceChains(sources);
    const silent = new Uint8Array(sources.length);
    await pass(
      trackStems,
      async (trackPlanes, frames) => {
        await readAll(sourceStems, sourcePlanes, PORTION_FRAMES);
        chains.process(sourcePlanes, silent, 0, PORTION_FRAMES);
        visit(trackPlanes, sourcePlanes, frames);
      },
      { expectedS: durationS, onProgress },
    );
  } finally {
    await Promise.all([...sourceStems, ...trackStems].map((stem) => stem?.close()));
    take.close();
  }
}

/** Loudness, true peak and outline of one track of one or two channels. */
class TrackMeter {
  private readonly meter: SoundMeter;
  private readonly outline: WaveformOutline;

  constructor(durationS: number, channels: number) {
    this.meter = new SoundMeter(STEM_RATE, channels);
    this.outline = new WaveformOutline(Math.max(1, Math.ceil((durationS * STEM_RATE) / OUTLINE_VALUES)));
  }

  add(planes: Stereo, frames: number): void {
    this.meter.add(planes, frames);
    this.outline.add(planes, frames);
  }

  result() {
    return { ...this.meter.result(), outline: this.outline.result() };
  }
}
