import type { Finding } from '../findings/finding.ts';
import type { Judged } from './judge.ts';
import type { Trouble } from './weights.ts';

/** What a repair is for: the troubles that a finding is about. */
export type Target = Pick<Finding, 'code' | 'source' | 'destination' | 'detail'>;

/**
 * Returns how much the troubles weigh that a finding is about; below {@link SOLVED} it is solved.
 * @param found the setup in which it was found
 */
export function weightOf(target: Target, judged: Judged, found: Judged): number {
  if (target.code === 'fused') return weightOfFused(target, judged, found);
  const isAbout = matcherOf(target);
  let sum = 0;
  const add = (one: Trouble) => {
    if (isAbout(one)) sum += one.weight;
  };
  for (const [id, { troubles }] of judged.bySource)
    if (target.source === null || target.source === id) troubles.forEach(add);
  judged.flaws.forEach(add);
  return sum;
}

/** Of sources that come by one pickup: those that arrive unwanted where one is wanted, or else those that are missing there. */
function weightOfFused({ destination, detail }: Target, judged: Judged, found: Judged): number {
  const weigh = (one: Judged, isCounted: (trouble: Trouble) => boolean) => {
    let sum = 0;
    for (const [id, { troubles }] of one.bySource)
      if (found.bySource.get(id)?.passes.has(detail ?? ''))
        for (const trouble of troubles)
          if (trouble.destination === destination && isCounted(trouble)) sum += trouble.weight;
    return sum;
  };
  const isUnwanted = ({ kind }: Trouble) => kind === 'unwanted' || kind === 'forbidden';
  return weigh(found, isUnwanted) > 0 ? weigh(judged, isUnwanted) : weigh(judged, () => true);
}

/** What weighs less than this is solved: the smallest trouble weighs more. */
export const SOLVED = 0.3;

function matcherOf({ code, source, destination, detail }: Target): (trouble: Trouble) => boolean {
  switch (code) {
    case 'uses':
      if (detail === 'idle') return ({ kind, detail: of }) => kind === 'idle' && of === destination;
      if (detail === 'record-vod') return ({ kind, detail: of }) => kind === 'shared' && of === 'vod';
      return (one) =>
        (one.kind === 'impossible' && one.detail === detail) ||
        (destination !== null && one.destination === destination);
    case 'track-limit':
      return ({ kind, detail: of }) => kind === 'impossible' && of?.startsWith('track ') === true;
    case 'hum-risk':
    case 'drift':
    case 'rate-mismatch':
    case 'own-clock':
      return ({ kind, detail: of }) => kind === 'line' && of === `${code} ${detail}`;
    case 'on-default':
      return (one) => one.kind === 'onDefault' && one.source === source;
    case 'overruled':
    case 'stuck':
      return (one) => one.kind === code && one.source === source;
    case 'not-called':
      return (one) => one.kind === 'notCalled' && one.detail === detail;
    case 'player-volume':
      return (one) => (one.kind === 'turnedDown' || one.kind === 'off') && one.source === source;
    case 'open-loudspeakers':
      return (one) => one.kind === 'air' && one.source === source && one.detail === detail;
    case 'listening-in':
      return ({ kind, detail: of }) => kind === 'listening' && of === detail;
    case 'double-processing':
      return (one) => one.kind === 'twice' && one.source === source && one.detail === detail;
    case 'no-own-track':
      return (one) => one.kind === 'shared' && one.source === source;
    case 'swallowed':
      return (one) =>
        one.source === source &&
        (one.kind === 'unheard' ||
          (one.kind === 'missing' && (destination === null || one.destination === destination)));
    case 'feedback':
      if (source === null) return ({ kind, source: of }) => kind === 'loop' && of === null;
      break;
    case 'missing':
      return (one) =>
        one.source === source &&
        one.destination === destination &&
        (one.kind === 'missing' || one.kind === 'forbidden');
    case 'scene-gap':
      return (one) =>
        one.source === source &&
        one.destination === destination &&
        one.scene === detail &&
        one.kind === 'missing';
    default:
  }
  return (one) => one.source === source && one.destination === destination;
}
