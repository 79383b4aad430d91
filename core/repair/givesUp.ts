import { destinationsOf } from '../reach/destinations.ts';
import { isCleared } from '../setup/clearance.ts';
import type { SimpleEdit } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';

/**
 * Says what edits give up of what was wanted, in words; empty where they give up nothing. To end a wish that the clearance forbids
 * anyway gives up nothing.
 */
export function givenUp(setup: Setup, edits: SimpleEdit[], today: string): string[] {
  const nameOf = (id: string) =>
    [...setup.sources, ...destinationsOf(setup), ...setup.destinations].find((one) => one.id === id)?.name ??
    id;
  return edits.flatMap((edit): string[] => {
    switch (edit.edit) {
      case 'setWish': {
        const isWished = setup.intent.some(
          (wish) => wish.source === edit.source && wish.destination === edit.destination,
        );
        if (edit.gainDb !== null)
          return isWished || !destinationsOf(setup).some(({ id }) => id === edit.destination)
            ? []
            : [`${nameOf(edit.source)} is then wanted at ${nameOf(edit.destination)}`];
        return isWished && !isForbidden(setup, edit.source, edit.destination, today)
          ? [`${nameOf(edit.source)} is no longer wanted at ${nameOf(edit.destination)}`]
          : [];
      }
      case 'updateSource':
        if (edit.values.ownTrack === false) return [`${nameOf(edit.id)} keeps no track of its own`];
        return edit.clear?.includes('into') ? [`${nameOf(edit.id)} plays nowhere`] : [];
      case 'updateTrack': {
        const before = setup.tracks.find((track) => track.id === edit.id);
        return before?.purpose === 'publish' && edit.values.purpose && edit.values.purpose !== 'publish'
          ? [`“${before.name}” is no longer for publishing`]
          : [];
      }
      case 'removeTrack':
        return setup.intent.some((wish) => wish.destination === edit.id)
          ? [`“${nameOf(edit.id)}” is no longer recorded`]
          : [];
      case 'setRecorder':
        return edit.values.recordVod === false && setup.recorder.recordVod
          ? ['the VOD is not in the file']
          : [];
      default:
        return [];
    }
  });
}

/** Tells whether a source may not be at a destination: it is live, VOD or published, and the clearance says no. */
function isForbidden(setup: Setup, sourceId: string, destinationId: string, today: string): boolean {
  const source = setup.sources.find((one) => one.id === sourceId);
  const track = destinationsOf(setup).find((one) => one.id === destinationId)?.track;
  if (!source || !track) return false;
  const uses = (['live', 'vod'] as const).filter((use) => track.uses.includes(use));
  const all = track.purpose === 'publish' ? ([...uses, 'upload'] as const) : uses;
  return all.some((use) => !isCleared(source.clearance, use, today));
}
