import { useMemo } from 'react';
import { findingsOf } from '../../../core/findings/findings.ts';
import type { RoomPlan } from '../../../core/plan/room.ts';
import { today } from '../../format.ts';
import { Button } from '../../parts/controls.tsx';

/** What comes of what was told: the tracks, why, and the setup itself. */
export function PlanOutcome({
  plan,
  canMake,
  onMake,
}: {
  plan: RoomPlan;
  canMake: boolean;
  onMake: () => void;
}) {
  const findings = useMemo(() => findingsOf(plan.setup, today()), [plan]);
  return (
    <aside
      aria-label="What comes of it"
      className="flex flex-col gap-4 border-rule bg-sheet px-5 py-4 wide:overflow-auto wide:border-l narrow:border-t-2"
    >
      <h2 className="font-title text-lg">What comes of it</h2>
      <Button weight="main" className="self-start" disabled={!canMake} onClick={onMake}>
        Make this setup
      </Button>
      <ol aria-label="Tracks" className="border-t border-rule">
        {plan.setup.tracks.map((track, index) => (
          <li key={track.id} className="flex gap-3 border-b border-rule py-1">
            <span className="w-4 text-right text-soft">{index + 1}</span>
            <span>
              <span className="font-semibold">{track.name}</span>
              <span className="block text-[13px] leading-snug text-soft">
                {onTrack(plan.setup, track.id) || 'nothing'}
              </span>
            </span>
          </li>
        ))}
      </ol>
      <section aria-label="Reasons">
        <h3 className="text-xs text-soft">Why</h3>
        <ul className="list-disc space-y-1 pl-4 text-sm">
          {plan.reasons.map((reason) => (
            <li key={reason}>{reason}</li>
          ))}
          <li>
            {plan.setup.devices.filter((one) => one.kind === 'virtual').length} virtual devices,{' '}
            {plan.setup.links.length} links, {plan.setup.pickups.length} pickups;{' '}
            {findings.length === 0 ? 'no finding stands.' : `${findings.length} to look at in Reach.`}
          </li>
        </ul>
      </section>
    </aside>
  );
}

/** The names of the sources that are wanted on a track, or at what it feeds. */
function onTrack(setup: RoomPlan['setup'], trackId: string): string {
  const track = setup.tracks.find((one) => one.id === trackId);
  const places = [trackId, ...(track?.uses ?? [])];
  const ids = new Set(
    setup.intent.filter((wish) => places.includes(wish.destination)).map((wish) => wish.source),
  );
  return setup.sources
    .filter((source) => ids.has(source.id))
    .map((source) => source.name)
    .join(', ');
}
