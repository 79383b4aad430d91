import type { Setup } from '../setup/schema.ts';
import { newGames, restarts, sticking, unpluggings } from './apps.ts';
import { crossedChat, musicInTheCall } from './call.ts';
import { headphonesOff, listeningIn, scenes } from './desk.ts';
import type { Drill } from './drill.ts';

export { DRILL_KINDS, type Drill, type DrillKind } from './drill.ts';
export { countAt, type DrillCount, type DrillResult, type DrillRun, runDrill, runDrills } from './run.ts';
export { safeguardsFor } from './safeguards.ts';

/** Returns every drill that a setup can be put through. */
export function drillsOf(setup: Setup): Drill[] {
  return [
    ...restarts(setup),
    ...sticking(setup),
    ...unpluggings(setup),
    ...newGames(setup),
    ...scenes(setup),
    ...musicInTheCall(setup),
    ...crossedChat(setup),
    ...listeningIn(setup),
    ...headphonesOff(setup),
  ];
}
