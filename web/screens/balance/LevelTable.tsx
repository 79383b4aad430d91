import { clsx } from 'clsx';
import { Link, useParams } from 'react-router';
import { type Aim, roleOf } from '../../../core/balance/aims.ts';
import type { Balanced } from '../../../core/balance/solve.ts';
import { stepsOn } from '../../../core/processors/processing.ts';
import type { Reach } from '../../../core/reach/reach.ts';
import { BALANCE_WISHES, type Setup } from '../../../core/setup/schema.ts';
import { formatDb, formatLevel } from '../../format.ts';
import { DbField, fieldClass } from '../../parts/controls.tsx';
import type { BalancedMix } from '../../parts/useBalance.ts';

const ROLE_WORDS = { voice: 'voice', bed: 'bed', accent: 'accent' };
const WISH_WORDS = { more: 'more', less: 'less', locked: 'locked' };

interface LevelTableProps {
  setup: Setup;
  reach: Reach;
  balanced: BalancedMix;
  aim: Aim;
  solved: Balanced | null;
  onLevel: (sourceId: string, gainDb: number) => void;
  onWish: (sourceId: string, wish: Aim['wishes'][string] | null) => void;
}

/** What arrives at one destination: each source's level, how loud that is, what is wished of it, and what was solved. */
export function LevelTable({ setup, reach, balanced, aim, solved, onLevel, onWish }: LevelTableProps) {
  const { setupId } = useParams();
  const { destination } = balanced.mix;
  const rows = setup.sources.filter(({ id }) => reach.at(id, destination.id));
  return (
    <div className="overflow-x-auto">
      <table className="w-full border-collapse text-sm" aria-label={`Levels at ${destination.name}`}>
        <thead>
          <tr className="text-left text-xs text-soft">
            <th className="font-normal">source</th>
            <th className="font-normal">part</th>
            <th className="font-normal">level</th>
            {solved ? <th className="font-normal">solved</th> : <td />}
            <th className="pr-4 text-right font-normal">by itself</th>
            <th className="font-normal">wish</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((source) => {
            const gainDb = reach.at(source.id, destination.id)?.gainDb ?? 0;
            const proposal = solved?.proposals.find(({ sourceId }) => sourceId === source.id);
            const process = stepsOn(source.processing).length > 0 ? 'processed' : 'process';
            const byDb = proposal ? proposal.afterDb - proposal.beforeDb : 0;
            return (
              <tr key={source.id} className="h-8 border-t border-rule">
                <th scope="row" className="max-w-40 truncate pr-2 text-left font-normal">
                  {source.name}
                  <Link
                    to={`/setups/${setupId}/rehearse?process=${source.id}`}
                    aria-label={`${process} ${source.name}`}
                    className="ml-2 text-xs text-soft underline decoration-rule hover:text-ink"
                  >
                    {process}
                  </Link>
                </th>
                <td className="text-soft">{ROLE_WORDS[roleOf(source)]}</td>
                <td>
                  <DbField
                    value={gainDb}
                    label={`${source.name} at ${destination.name}`}
                    onChange={(next) => onLevel(source.id, next)}
                  />
                </td>
                <td className="w-36 whitespace-nowrap">
                  {proposal && (
                    <span className={clsx(Math.abs(byDb) < 0.05 ? 'text-soft' : 'font-semibold text-water')}>
                      {formatDb(proposal.afterDb)} dB{' '}
                      <span className="text-xs font-normal text-soft">
                        {Math.abs(byDb) < 0.05 ? 'stays' : `${formatDb(byDb)}`}
                      </span>
                    </span>
                  )}
                </td>
                <td className="pr-4 text-right">{formatLevel(balanced.ownLufs(source.id), 'LUFS')}</td>
                <td>
                  <select
                    className={fieldClass}
                    aria-label={`Wish for ${source.name}`}
                    value={aim.wishes[source.id] ?? ''}
                    onChange={(event) =>
                      onWish(source.id, (event.target.value || null) as Aim['wishes'][string] | null)
                    }
                  >
                    <option value="">as it comes</option>
                    {BALANCE_WISHES.map((wish) => (
                      <option key={wish} value={wish}>
                        {WISH_WORDS[wish]}
                      </option>
                    ))}
                  </select>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
