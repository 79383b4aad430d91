import { type InspectedMedia, inspectMedia } from '../media/inspectMedia.ts';
import { type MeasureRequest, measureTake, type TakeMeasures } from '../media/measureTake.ts';
import { type RenderRequest, renderTake } from '../media/renderTake.ts';

/** Called with the share of a task that is done, 0 to 1. */
export type OnShare = (share: number) => void;

/** The tasks that run on worker threads, by name: what each is given and what it gives back. */
export interface Tasks {
  /** Decodes a file from end to end and measures it. */
  inspect: { input: { path: string; allowCut: boolean }; output: InspectedMedia };
  /** Mixes and writes a take; gives its length in seconds. */
  render: { input: Omit<RenderRequest, 'onProgress'>; output: number };
  /** Measures tracks of a take, and looks in them for every source that has a file. */
  measure: { input: Omit<MeasureRequest, 'onProgress'>; output: TakeMeasures };
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

const TASKS: {
  [Name in keyof Tasks]: (input: Tasks[Name]['input'], onProgress: OnShare) => Promise<Tasks[Name]['output']>;
} = {
  inspect: ({ path, allowCut }) => inspectMedia(path, { allowCut }),
  render: (input, onProgress) => renderTake({ ...input, onProgress }),
  measure: (input, onProgress) => measureTake({ ...input, onProgress }),
};
