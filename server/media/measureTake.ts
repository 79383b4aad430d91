import type { Stereo } from '../../core/engine/mixer.ts';
import { loadFft } from '../../core/measure/fft.ts';
import { type Loudness, LoudnessMeter } from '../../core/measure/loudness.ts';
import { PresenceSurvey } from '../../core/measure/presence/survey.ts';
import type { Measured } from '../../core/measure/proof.ts';
import { TruePeakMeter } from '../../core/measure/truePeak.ts';
import { WaveformOutline } from '../../core/measure/waveform.ts';
import type { Setup } from '../../core/setup/schema.ts';
import { toDb } from '../../core/signal/decibel.ts';
import { toMono } from '../../core/signal/mono.ts';
import { openStems } from './renderTake.ts';
import { STEM_RATE, Stem } from './stem.ts';

const PORTION_FRAMES = STEM_RATE / 2;
/** A drawn outline has about this many values. */
const OUTLINE_VALUES = 1200;

/** What was measured of one track of a take, in the file as it was written. */
export interface TrackMeasures extends Loudness {
  trackId: string;
  truePeakDbtp: number | null;
  outline: number[];
}

export interface MeasureRequest {
  setup: Setup;
  mediaFiles: Record<string, string>;
  takePath: string;
  durationS: number;
  onProgress?: (share: number) => void;
}

/** Reads a written take once and measures loudness, true peak and outline of every track. */
export async function measureTracks(request: MeasureRequest): Promise<TrackMeasures[]> {
  const { setup, durationS } = request;
  const meters = setup.tracks.map((track) => new TrackMeter(durationS, track.layout === 'mono' ? 1 : 2));
  await readTake(request, [], (trackPlanes, _sources, frames) => {
    meters.forEach((meter, index) => {
      meter.add(trackPlanes[index], frames);
    });
  });
  return setup.tracks.map((track, index) => ({ trackId: track.id, ...meters[index].result() }));
}

/**
 * Reads a written take once, beside the stems of the sources in `mediaFiles`, and measures for each of these sources
 * and every track whether the source is in it.
 */
export async function measurePresence(request: MeasureRequest): Promise<Measured[]> {
  const { setup, mediaFiles } = request;
  const sources = setup.sources.filter((source) => mediaFiles[source.id] !== undefined);
  const survey = new PresenceSurvey(await loadFft(), sources.length, setup.tracks.length);
  await readTake(request, sources, (trackPlanes, sourcePlanes, frames) => {
    survey.add(sourcePlanes.map(toMono), trackPlanes.map(toMono), frames);
  });
  const found = survey.results();
  return sources.flatMap((source, s) =>
    setup.tracks.map((track, t) => ({ sourceId: source.id, trackId: track.id, presence: found[s][t] })),
  );
}

/** Goes through a take and the stems of some sources in step, portion by portion. */
async function readTake(
  { setup, mediaFiles, takePath, durationS, onProgress = () => {} }: MeasureRequest,
  sources: Setup['sources'],
  visit: (tracks: Stereo[], sources: Stereo[], frames: number) => void,
): Promise<void> {
  const stems = await openStems({ ...setup, sources }, mediaFiles);
  const tracks: Stem[] = [];
  try {
    for (let index = 0; index < setup.tracks.length; index++) tracks.push(await Stem.open(takePath, index));
    const sourcePlanes = sources.map(newPlanes);
    const trackPlanes = tracks.map(newPlanes);
    for (let done = 0; ; ) {
      let frames = 0;
      for (let i = 0; i < tracks.length; i++)
        frames = Math.max(frames, await tracks[i].read(trackPlanes[i], PORTION_FRAMES));
      if (frames === 0) return;
      for (let i = 0; i < stems.length; i++) await stems[i]?.read(sourcePlanes[i], PORTION_FRAMES);
      visit(trackPlanes, sourcePlanes, frames);
      done += frames;
      onProgress(Math.min(1, done / STEM_RATE / durationS));
      await breathe();
    }
  } finally {
    await Promise.all([...stems, ...tracks].map((stem) => stem?.close()));
  }
}

/** Loudness, true peak and outline of one track of one or two channels. */
class TrackMeter {
  private readonly loudness: LoudnessMeter;
  private readonly peaks: TruePeakMeter[];
  private readonly outline: WaveformOutline;

  constructor(durationS: number, channels: number) {
    this.loudness = new LoudnessMeter(STEM_RATE, channels);
    this.peaks = Array.from({ length: channels }, () => new TruePeakMeter());
    this.outline = new WaveformOutline(Math.max(1, Math.ceil((durationS * STEM_RATE) / OUTLINE_VALUES)));
  }

  add(planes: Stereo, frames: number): void {
    this.loudness.add(planes, frames);
    this.peaks.forEach((meter, channel) => {
      meter.add(planes[channel], 0, frames);
    });
    this.outline.add(planes, frames);
  }

  result() {
    const peak = Math.max(...this.peaks.map((meter) => meter.peak()));
    return {
      ...this.loudness.result(),
      truePeakDbtp: peak > 0 ? toDb(peak) : null,
      outline: this.outline.result(),
    };
  }
}

function newPlanes(): Stereo {
  return [new Float32Array(PORTION_FRAMES), new Float32Array(PORTION_FRAMES)];
}

/** Lets messages (a cancel, say) through between two portions. */
function breathe(): Promise<void> {
  return new Promise((resolve) => setImmediate(resolve));
}
