import { clsx } from 'clsx';
import type { Aim } from '../../../core/balance/aims.ts';
import type { MixFigures } from '../../../core/balance/figures.ts';
import { formatLevel } from '../../format.ts';
import type { BalancedMix } from '../../parts/useBalance.ts';

/** One destination in the list: its loudness, and what is wrong with it. */
export function DestinationLine({
  balanced: { mix, figures },
  aim,
  isChosen,
  onChoose,
}: {
  balanced: BalancedMix;
  aim: Aim;
  isChosen: boolean;
  onChoose: () => void;
}) {
  const off = offTarget(figures, aim);
  return (
    <li className="border-b border-rule last:border-0">
      <button
        type="button"
        aria-pressed={isChosen}
        onClick={onChoose}
        className={clsx(
          'block w-full py-1.5 text-left leading-tight hover:bg-paper',
          isChosen ? 'border-l-[3px] border-l-water pl-2' : 'pl-[11px]',
        )}
      >
        <span className={clsx('flex justify-between gap-2', isChosen && 'font-semibold text-water')}>
          <span className="truncate">{mix.destination.name}</span>
          <span className="whitespace-nowrap">{formatLevel(figures.integratedLufs, 'LUFS')}</span>
        </span>
        <span className="block text-xs text-soft">
          {figures.voiceOverBedLu !== null && `bed ${figures.voiceOverBedLu.toFixed(1)} LU under the voices`}
        </span>
        {off !== null && (
          <span className="block text-xs font-semibold text-reed">off target by {off} LU</span>
        )}
        {figures.buried.length > 0 && (
          <span className="block text-xs font-semibold text-clay">
            buried: {figures.buried.length} {figures.buried.length === 1 ? 'place' : 'places'}
          </span>
        )}
      </button>
    </li>
  );
}

/** By how much a destination misses its target, when that is more than 1 LU. */
function offTarget({ integratedLufs }: MixFigures, { targetLufs }: Aim): string | null {
  if (targetLufs === null || integratedLufs === null) return null;
  const off = integratedLufs - targetLufs;
  return Math.abs(off) > 1 ? `${off > 0 ? '+' : '−'}${Math.abs(off).toFixed(1)}` : null;
}
