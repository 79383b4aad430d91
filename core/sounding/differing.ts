import { reachOf } from '../reach/reach.ts';
import { applyEdit, type SimpleEdit } from '../setup/edits.ts';
import { brokenRules } from '../setup/rules.ts';
import { isPlugged, type Setup } from '../setup/schema.ts';

/** How much quieter a send is in the simulated room (dB). */
const DOWN_DB = 20;

/**
 * A stand-in for a real room that is not as its setup says: one app plays into another output, one send is closed, and one is 20 dB
 * down, as far as the setup has such things.
 */
export function differingRoom(setup: Setup): Setup {
  let room = setup;
  const changed = new Set<string>();
  const change = (source: string | undefined, edit: SimpleEdit): boolean => {
    const next = applyEdit(room, edit);
    if (brokenRules(next).length > 0) return false;
    room = next;
    if (source) changed.add(source);
    return true;
  };
  const reach = reachOf(setup);
  const picked = new Set(setup.pickups.map(({ takes }) => takes));
  for (const { id, kind, into, machine } of setup.sources) {
    if (isPlugged(kind) || into === undefined || changed.size > 0) continue;
    const other = setup.devices.find(
      (one) => one.id !== into && one.machine === machine && one.direction === 'out' && leadsToPickup(one.id),
    );
    if (other) change(id, { edit: 'updateSource', id, values: { into: other.id } });
  }
  const untouched = setup.sends.filter(
    ({ pickup, to }) =>
      setup.tracks.some(({ id }) => id === to) && reach.sourcesAt(pickup).some((id) => !changed.has(id)),
  );
  const [first, , third] = untouched;
  if (first) change(undefined, { ...first, edit: 'setSend', gainDb: null });
  const last = untouched.at(-1) ?? third;
  if (last && last !== first) change(undefined, { ...last, edit: 'setSend', gainDb: last.gainDb - DOWN_DB });
  return room;

  function leadsToPickup(device: string): boolean {
    const seen = new Set([device]);
    for (const id of seen) {
      for (const link of setup.links) if (link.from === id) seen.add(link.to);
      for (const mix of setup.mixes)
        if (mix.inputs.some(({ from, muted }) => from === id && !muted))
          for (const to of [mix.id, ...mix.into]) seen.add(to);
    }
    return [...seen].some((id) => picked.has(id));
  }
}
