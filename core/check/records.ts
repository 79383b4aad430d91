import type { CheckPlan } from './plan.ts';
import type { InspectedTracks } from './recording.ts';
import type { PlanFindings, Verdict } from './verification.ts';

/** Where a recording is: in the media folder, or in the data folder because it was uploaded. */
export type CheckedPlace = 'folder' | 'upload';

/** How far the work on a recording is: `idle` when there is nothing to do. */
export type CheckState = 'waiting' | 'running' | 'idle' | 'failed' | 'stopped';

/** A recording that was added, as the list shows it. */
export interface CheckSummary {
  id: string;
  name: string;
  place: CheckedPlace;
  /** Below the media folder, or the name of the uploaded file. */
  path: string;
  bytes: number;
  durationS: number | null;
  /** How many audio tracks it has. */
  trackCount: number | null;
  state: CheckState;
  /** What is done, or was done last: its tracks are read, or it is checked by its plan. */
  work: 'read' | 'check';
  /** 0 to 1. */
  progress: number;
  message: string | null;
  verdict: Verdict | null;
  /** The setup whose clearances it is checked against, where there is one. */
  setupId: string | null;
  createdAt: string;
  checkedAt: string | null;
}

/** What was found when a recording was checked by its plan. */
export interface CheckResult extends PlanFindings {
  /** Every sound that was looked for, and where its file is. */
  references: { name: string; track: number | null; path: string | null }[];
  /** The plan by which it was checked. */
  plan: CheckPlan;
}

/** A recording that was added, with everything known about it. */
export interface Check extends CheckSummary {
  inspected: InspectedTracks | null;
  plan: CheckPlan | null;
  result: CheckResult | null;
}

/** One file of the media folder. */
export interface FolderFile {
  path: string;
  bytes: number;
  modifiedAt: string;
}

/** What happens to new recordings: which setup they are checked against, and whether new files of the media folder are added at once. */
export interface Arrivals {
  setupId: string | null;
  watch: boolean;
}

/** The media folder; its path is null where none is set. */
export interface MediaFolder {
  path: string | null;
  files: FolderFile[];
  /** More files are there than are listed. */
  isCut: boolean;
  /** Why it cannot be read. */
  trouble: string | null;
  arrivals: Arrivals;
}
