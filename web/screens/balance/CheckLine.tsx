import { HOLDS_LU } from '../../../core/balance/verified.ts';
import { formatLevel } from '../../format.ts';
import { Button } from '../../parts/controls.tsx';
import type { Check } from './useCheck.ts';

interface CheckLineProps {
  check: Check | null;
  destinationId: string;
  onCancel: () => void;
}

/** Whether a render shows what was solved. */
export function CheckLine({ check, destinationId, onCancel }: CheckLineProps) {
  if (!check) return null;
  if (check.status === 'checking')
    return (
      <p role="status" className="flex items-center gap-2 text-sm text-soft">
        Checking the new levels in a render{check.round > 1 && `, the ${ordinal(check.round)} time`} …
        <Button onClick={onCancel}>Cancel the check</Button>
      </p>
    );
  if (check.status === 'failed')
    return (
      <p role="alert" className="text-sm text-clay">
        The new levels could not be checked in a render: {check.message}
      </p>
    );
  const { holds, measured } = check.verified;
  const rendered = measured.find((one) => one.destinationId === destinationId);
  const figures = rendered
    ? `${formatLevel(rendered.integratedLufs, 'LUFS')} and ${formatLevel(rendered.truePeakDbtp, 'dBTP')} here`
    : 'nothing here';
  return (
    <p role="status" className={holds ? 'text-sm text-moss' : 'text-sm text-clay'}>
      {holds
        ? `A render of these levels shows them, within ${HOLDS_LU} LU: ${figures}.`
        : `A render does not show these figures within ${HOLDS_LU} LU, after four of them: it has ${figures}.`}
    </p>
  );
}

function ordinal(round: number): string {
  return ['first', 'second', 'third', 'fourth'][round - 1] ?? `${round}th`;
}
