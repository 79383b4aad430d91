import type { Finding } from '../../findings/finding.ts';
import {
  type Done,
  detailOf,
  effectAt,
  ownSteps,
  pairsIn,
  pairsOnTheWay,
} from '../../findings/processedTwice.ts';
import { wordFor } from '../../processors/processing.ts';
import { bearerWords } from '../../setup/bearerWords.ts';
import { processEdit } from '../../setup/processEdit.ts';
import type { Setup } from '../../setup/schema.ts';
import type { Candidate } from '../candidate.ts';
import type { Room } from '../room.ts';

/** What can be done about it: a step is bypassed, or a device that does the same is switched off. */
export function onceOnly(
  room: Room,
  sourceId: string,
  about: Pick<Finding, 'destination' | 'detail'>,
): Candidate[] {
  const { setup } = room;
  const source = room.source(sourceId);
  const destination = room.destination(about.destination);
  if (!source) return [];
  const pairs = about.destination
    ? pairsOnTheWay(setup, destination ? room.arrival(source.id, destination) : null, source)
    : pairsIn(ownSteps(setup, source));
  const pair = pairs.find(({ second }) => detailOf(second) === about.detail);
  if (!pair) return [];
  const { first, second } = pair;
  if ('borne' in first && 'borne' in second && first.borne === second.borne)
    return [withoutDone(setup, second, first.at)];
  return [...('borne' in first ? [first] : []), second].map((done) => withoutDone(setup, done));
}

/** @param keptAt the step of the same effect that stays; −1 for none */
function withoutDone(setup: Setup, done: Done, keptAt = -1): Candidate {
  if ('device' in done) {
    const { device, effect } = done;
    const does = device.does?.filter((one) => one !== effect);
    return {
      label: `Switch the ${effect} of “${device.name}” off`,
      fault: `The ${effect} of “${device.name}” is on, though the same is done elsewhere`,
      edits: [{ edit: 'updateDevice', id: device.id, values: { does } }],
    };
  }
  const { borne, at, effect } = done;
  const processing = borne.processing.map((step, i) =>
    i !== keptAt && effectAt(step) === effect ? { ...step, off: true } : step,
  );
  const what = effect === 'equaliser' ? 'equaliser' : wordFor(borne.processing[at]);
  return {
    label: `Bypass the ${what} of ${bearerWords(setup, borne.bearer)}`,
    fault: `The ${what} of ${bearerWords(setup, borne.bearer)} is on, though the same is done elsewhere`,
    edits: [processEdit(setup, borne.bearer, processing)],
  };
}
