import type { RouteCard } from '../../core/reach/reach.ts';
import { formatDb } from '../format.ts';

/** A route card, written like a timetable: place, gain, delay, running total. */
export function RouteCardView({ card }: { card: RouteCard }) {
  return (
    <table className="w-full border-y border-rule text-[13px]" aria-label="Route card">
      <thead>
        <tr className="text-left text-[11px] text-soft">
          <th className="py-0.5 font-normal">place</th>
          <th className="text-right font-normal">gain</th>
          <th className="text-right font-normal">delay</th>
          <th className="text-right font-normal">so far</th>
        </tr>
      </thead>
      <tbody>
        {card.legs.map((leg, index) => (
          <tr key={index} className="border-t border-dotted border-rule">
            <td className="py-0.5 pr-2">{leg.place}</td>
            <td className="pl-2 text-right whitespace-nowrap">{formatDb(leg.gainDb)}</td>
            <td className="pl-2 text-right whitespace-nowrap text-soft">
              {index === card.legs.length - 1 && card.delayMs > 0 ? (
                <strong title="the whole delay">{card.delayMs.toFixed(0)} ms</strong>
              ) : (
                `${leg.delayMs.toFixed(0)} ms`
              )}
            </td>
            <td className="pl-2 text-right whitespace-nowrap">{formatDb(leg.totalDb)} dB</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
