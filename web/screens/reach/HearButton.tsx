import { Ear } from 'lucide-react';
import { useMemo } from 'react';
import { whereToHear } from '../../../core/balance/heard.ts';
import type { Finding } from '../../../core/findings/finding.ts';
import { useHeard } from '../../heard.tsx';
import { useRehearsal } from '../../rehearsal.tsx';

/** Plays what a finding is about, where that can be heard; remedies that are applied meanwhile are heard at once. */
export function HearButton({ finding, atS = null }: { finding: Finding; atS?: number | null }) {
  const { play } = useRehearsal();
  const heard = useHeard();
  const [input, mixes] = [heard?.input, heard?.mixes];
  const place = useMemo(
    () => (input && mixes ? whereToHear(input, mixes, { finding, atS }) : null),
    [input, mixes, finding, atS],
  );
  if (!place) return null;
  return (
    <button
      type="button"
      className="ml-auto inline-flex items-center gap-1 text-water underline hover:text-ink"
      onClick={() => play(place)}
    >
      <Ear size={13} /> hear it
    </button>
  );
}
