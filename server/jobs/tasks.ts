import type { InspectedTracks } from '../../core/check/recording.ts';
import type { ExtractedTrack, MadeVideo, Suggestion } from '../../core/deliver/records.ts';
import type { Sound } from '../../core/engine/arrivingSounds.ts';
import { openFindings } from '../../core/findings/accepted.ts';
import { findingsOf } from '../../core/findings/findings.ts';
import { type Calibration, calibrate } from '../../core/measure/calibrate.ts';
import type { Covariances } from '../../core/measure/covariance.ts';
import { withFft } from '../../core/measure/fft.ts';
import type { Presence } from '../../core/measure/presence/pair.ts';
import type { Way } from '../../core/measure/way.ts';
import { type Conclusion, conclusionOf } from '../../core/proof/conclusion.ts';
import { type Measured, type ProofLine, proofOf } from '../../core/proof/proof.ts';
import { reachOf } from '../../core/reach/reach.ts';
import type { DestinationMeasures, Passage } from '../../core/records.ts';
import type { Setup } from '../../core/setup/schema.ts';
import { loadNoiseReduction } from '../../core/signal/noiseReduction.ts';
import { differingRoom } from '../../core/sounding/differing.ts';
import { type Sounding, soundRoom } from '../../core/sounding/sounding.ts';
import { type AlignRequest, alignTrack } from '../deliver/alignTrack.ts';
import { type ExtractRequest, extractTracks } from '../deliver/extractTracks.ts';
import { joinParts, type PartsRequest } from '../deliver/joinParts.ts';
import { type Remuxed, remux } from '../deliver/remux.ts';
import { type SuggestRequest, suggestMarks } from '../deliver/suggestMarks.ts';
import { type JoinedRequest, writeJoined } from '../deliver/writeJoined.ts';
import { type StretchRequest, writeStretch } from '../deliver/writeStretch.ts';
import { type UploadRequest, writeUpload } from '../deliver/writeUpload.ts';
import { type Without, type WithoutRequest, writeWithout } from '../deliver/writeWithout.ts';
import { measureCovariances, type SourceFile } from '../media/covariances.ts';
import { type DemoSoundRequest, writeDemoSound } from '../media/demoSound.ts';
import { findWay, type WayRequest } from '../media/findWay.ts';
import { fingerprintsOf, type PrintPart, type TakenPrints } from '../media/fingerprints.ts';
import { type InspectedMedia, inspectMedia } from '../media/inspectMedia.ts';
import { inspectTracks } from '../media/inspectTracks.ts';
import { measureDestinations } from '../media/measureDestinations.ts';
import { type MeasureRequest, measureTake, type TakeMeasures } from '../media/measureTake.ts';
import { type PassageRequest, writePassage } from '../media/passage.ts';
import { readMono } from '../media/readMono.ts';
import { type RenderRequest, renderTake } from '../media/renderTake.ts';
import { type Repaired, repairRecording } from '../media/repairRecording.ts';
import {
  isReferenceFewTones,
  type ListenRequest,
  type LookedUp,
  type LookUpRequest,
  listenAt,
  lookUpFiles,
} from '../media/searchRecording.ts';
import { recordTestSounds } from '../media/simulatedRecording.ts';
import { readSoundedTracks } from '../media/soundingFiles.ts';
import { writeStemFile } from '../media/stemFile.ts';
import {
  type SurveyedSound,
  type SurveyPart,
  type SurveyRequest,
  surveyRecording,
} from '../media/surveyRecording.ts';
import { loudnessOfTracks, type TrackLoudnessRequest } from '../media/trackLoudness.ts';

/** Called with the share of a task that is done, 0 to 1. */
export type OnShare = (share: number) => void;

/** The tasks that run on worker threads, by name: what each is given and what it gives back. */
export interface Tasks {
  /** Makes one of the demo's sounds. */
  demoSound: { input: DemoSoundRequest; output: undefined };
  /** Decodes a file from end to end and measures it. */
  inspect: { input: { path: string; allowCut: boolean }; output: InspectedMedia };
  /** Mixes and writes a take; gives its length in seconds. */
  render: { input: Omit<RenderRequest, 'onProgress'>; output: number };
  /** Measures tracks of a take, and looks in them for every source that has a file. */
  measure: { input: Omit<MeasureRequest, 'onProgress'>; output: TakeMeasures };
  /** Sets what was measured beside the plan. */
  proof: { input: { setup: Setup; presence: Measured[]; today: string }; output: Proven };
  /** Unpacks a recording into raw frames. */
  unpack: { input: { mediaFile: string; path: string }; output: undefined };
  /** Renders a setup for everybody who listens, and measures each. */
  destinations: {
    input: { setup: Setup; mediaFiles: Record<string, string> };
    output: DestinationMeasures[];
  };
  /** Reads floor, speech, gate and hum from a recording. */
  calibrate: { input: { mediaFile: string; passage?: Passage }; output: Calibration };
  /** Reads all tracks of a recording, and how they go together. */
  inspectTracks: { input: { path: string }; output: InspectedTracks };
  /** Measures how loud tracks of a recording are while they sound (LUFS; null for silence). */
  loudnessOfTracks: { input: TrackLoudnessRequest; output: (number | null)[] };
  /** Looks for references in tracks over a part of a recording. */
  survey: { input: SurveyRequest; output: SurveyPart };
  /** Takes the fingerprints of tracks, or a part of them. */
  fingerprints: { input: { path: string; tracks: number[]; part: PrintPart }; output: TakenPrints };
  /** Looks up files in tracks by their fingerprints. */
  lookUp: { input: LookUpRequest; output: LookedUp[] };
  /** Listens to places where a sound may be. */
  listen: { input: ListenRequest; output: Presence[] };
  /** Finds out by which way a sound came into a track. */
  way: { input: WayRequest; output: Way };
  /** Tells whether a reference is nothing but a few steady tones. */
  fewTones: { input: { path: string; sound: SurveyedSound }; output: boolean };
  /** Writes a passage of a recording, to be heard. */
  passage: { input: PassageRequest; output: undefined };
  /** Reads a recording of test sounds. */
  sound: { input: { setup: Setup; path: string; today: string }; output: Sounding };
  /** Records the test sounds in a simulated room that differs from its setup, and reads that. */
  simulateSounding: { input: { setup: Setup; path: string; today: string }; output: Sounding };
  /** Writes a video for an upload. */
  writeUpload: { input: UploadRequest; output: MadeVideo };
  /** Writes a stretch of a track. */
  writeStretch: { input: StretchRequest; output: undefined };
  /** Writes a track without a sound. */
  writeWithout: { input: WithoutRequest; output: Without };
  /** Writes parts of a track one behind the other. */
  joinParts: { input: PartsRequest; output: undefined };
  /** Writes tracks of a recording into files of their own. */
  extractTracks: { input: ExtractRequest; output: ExtractedTrack[] };
  /** Puts a recording into another container. */
  remux: { input: { path: string; outPath: string }; output: Remuxed };
  /** Writes a damaged recording anew. */
  repair: { input: { path: string; outPath: string; likePath?: string }; output: Repaired };
  /** Writes a track so that it goes with a picture. */
  alignTrack: { input: AlignRequest; output: undefined };
  /** Writes a picture and tracks that go with it into one file. */
  writeJoined: { input: JoinedRequest; output: string[] };
  /** Looks for moments that may be worth a mark. */
  suggestMarks: { input: SuggestRequest; output: Suggestion[] };
  /** Measures how recordings go together. */
  covariances: { input: { sources: SourceFile[]; sounds: Sound[] }; output: Covariances };
}

/** Runs a task in this thread. */
export async function runTask<Name extends keyof Tasks>(
  name: Name,
  input: Tasks[Name]['input'],
  onProgress: OnShare,
): Promise<Tasks[Name]['output']> {
  const run = TASKS[name] as (
    input: Tasks[Name]['input'],
    onProgress: OnShare,
  ) => Promise<Tasks[Name]['output']>;
  return run(input, onProgress);
}

/** A simulated recording of test sounds is so long (s). */
const SIMULATED_S = 36;

/** A proof, and what it comes to. */
export interface Proven {
  proof: ProofLine[];
  conclusion: Conclusion;
}

function proven(setup: Setup, presence: Measured[], today: string): Proven {
  const reach = reachOf(setup);
  const proof = proofOf(setup, reach, presence, today);
  return {
    proof,
    conclusion: conclusionOf(setup, proof, openFindings(setup, findingsOf(setup, today, reach)), today),
  };
}

const TASKS: {
  [Name in keyof Tasks]: (input: Tasks[Name]['input'], onProgress: OnShare) => Promise<Tasks[Name]['output']>;
} = {
  demoSound: (input) => writeDemoSound(input).then(() => undefined),
  inspect: ({ path, allowCut }, onProgress) => inspectMedia(path, { allowCut }, onProgress),
  render: (input, onProgress) => renderTake({ ...input, onProgress }),
  measure: (input, onProgress) => measureTake({ ...input, onProgress }),
  proof: async ({ setup, presence, today }) => proven(setup, presence, today),
  unpack: ({ mediaFile, path }, onProgress) =>
    writeStemFile(mediaFile, path, onProgress).then(() => undefined),
  destinations: ({ setup, mediaFiles }, onProgress) => measureDestinations(setup, mediaFiles, onProgress),
  calibrate: async ({ mediaFile, passage }, onProgress) => {
    const samples = await readMono(mediaFile, passage, onProgress);
    return withFft((makeFft) => calibrate(makeFft, samples));
  },
  inspectTracks: ({ path }, onProgress) => inspectTracks(path, onProgress),
  loudnessOfTracks,
  survey: (input, onProgress) => surveyRecording(input, onProgress),
  fingerprints: ({ path, tracks, part }, onProgress) => fingerprintsOf(path, tracks, onProgress, part),
  lookUp: (input, onProgress) => lookUpFiles(input, onProgress),
  listen: (input, onProgress) => listenAt(input, onProgress),
  way: (input) => findWay(input),
  fewTones: ({ path, sound }) => isReferenceFewTones(path, sound),
  passage: (input) => writePassage(input),
  sound: async ({ setup, path, today }, onProgress) =>
    soundRoom(setup, await readSoundedTracks(path), today, onProgress),
  simulateSounding: async ({ setup, path, today }, onProgress) => {
    await loadNoiseReduction();
    const room = differingRoom(setup);
    await recordTestSounds({ room, outPath: path, seconds: SIMULATED_S, seed: 1 }, onProgress);
    return soundRoom(setup, await readSoundedTracks(path), today, onProgress);
  },
  writeUpload: (input, onProgress) => writeUpload(input, onProgress),
  writeStretch: (input, onProgress) => writeStretch(input, onProgress).then(() => undefined),
  writeWithout: (input, onProgress) => writeWithout(input, onProgress),
  joinParts: (input, onProgress) => joinParts(input, onProgress).then(() => undefined),
  extractTracks: (input, onProgress) => extractTracks(input, onProgress),
  remux: ({ path, outPath }, onProgress) => remux(path, outPath, onProgress),
  repair: ({ path, outPath, likePath }, onProgress) => repairRecording(path, outPath, onProgress, likePath),
  alignTrack: (input, onProgress) => alignTrack(input, onProgress).then(() => undefined),
  writeJoined,
  suggestMarks: (input, onProgress) => suggestMarks(input, onProgress),
  covariances: ({ sources, sounds }, onProgress) => measureCovariances(sources, sounds, onProgress),
};
