import type { Destination } from '../reach/destinations.ts';
import type { Graph } from '../reach/graph.ts';
import type { Trail } from '../reach/reach.ts';
import type { Setup } from '../setup/schema.ts';
import type { Trouble } from './weights.ts';

/** How far one source is from what is wanted of it, and where its sound goes. */
export interface SourceJudged {
  troubles: Trouble[];
  total: number;
  /** With every pickup sounding. */
  trail: Trail;
  /** Every place that it passes, by id, itself among them. */
  passes: Set<string>;
  /** The links that it comes to a destination over. */
  links: Set<string>;
  /** The edit tracks of the file that it is on, with its channels there. */
  onEdit: Map<string, { channels: number[]; isAudible: boolean }>;
}

/** A setup with everything that keeps it from what is wanted. */
export interface Judged {
  setup: Setup;
  graph: Graph;
  destinations: Destination[];
  bySource: Map<string, SourceJudged>;
  /** What is wrong with the setup as such. */
  flaws: Trouble[];
  /** The sum of all weights: 0 where everything is as it is wanted. */
  total: number;
}
