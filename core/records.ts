// What the server keeps and the interface shows, as it goes between them.
import { z } from 'zod';
import type { Copy } from './measure/echo.ts';
import type { Loudness } from './measure/loudness.ts';
import { ProcessingSchema } from './processors/processing.ts';
import type { Conclusion } from './proof/conclusion.ts';
import type { ProofLine } from './proof/proof.ts';
import type { Setup } from './setup/schema.ts';
import { NameSchema } from './values.ts';

export const PresetSchema = z.strictObject({ name: NameSchema, processing: ProcessingSchema.min(1) });
/** A processing with a name, for any source of any setup. */
export type Preset = z.infer<typeof PresetSchema>;

/** A setup as the server gives it, with what can be undone and redone, in words. */
export interface StoredSetup {
  id: string;
  revision: number;
  setup: Setup;
  undo: string | null;
  redo: string | null;
}

export interface SetupSummary {
  id: string;
  name: string;
  revision: number;
  updatedAt: string;
}

/** One edit of a setup's history. */
export interface HistoryEntry {
  id: number;
  label: string;
  createdAt: string;
  undone: boolean;
}

export interface Media {
  id: string;
  name: string;
  file: string;
  bytes: number;
  codec: string;
  channels: number;
  sampleRate: number;
  durationS: number;
  integratedLufs: number | null;
}

/** A stretch of a recording (s). */
export interface Passage {
  fromS: number;
  untilS: number;
}

export interface Job {
  id: string;
  setupId: string;
  state: 'running' | 'done' | 'failed' | 'cancelled' | 'interrupted';
  phase: string;
  progress: number;
  message: string | null;
  takeId: string | null;
  createdAt: string;
}

export interface TakeSummary {
  id: string;
  setupId: string;
  name: string;
  revision: number;
  durationS: number;
  bytes: number;
  leaks: number;
  contradictions: number;
  /** What it shows as a whole. */
  conclusion: Conclusion;
  createdAt: string;
}

export interface TrackMeasures extends Loudness {
  trackId: string;
  truePeakDbtp: number | null;
  outline: number[];
}

/** What was measured of what one destination hears. */
export interface DestinationMeasures extends Loudness {
  destinationId: string;
  truePeakDbtp: number | null;
  /** In headphones: how the voices of microphones that are heard there arrive, by source. */
  ownVoices?: { sourceId: string; copies: Copy[] }[];
}

export interface Take extends TakeSummary {
  setup: Setup;
  tracks: TrackMeasures[];
  proof: ProofLine[];
}
