import type { Aim } from '../../../core/balance/aims.ts';
import { levelText } from '../../../core/words/figures.ts';
import { FigureField } from '../../parts/FigureField.tsx';

interface AimFieldsProps {
  aim: Aim;
  onChange: (values: { targetLufs?: number | null; ceilingDbtp?: number; bedLu?: number }) => void;
}

/** What is to hold true at a destination: how loud, how high the peaks, how far the bed lies under the voices. */
export function AimFields({ aim, onChange }: AimFieldsProps) {
  return (
    <div className="flex flex-wrap items-end gap-x-4 gap-y-1">
      <Figure
        label="Target"
        unit="LUFS"
        value={aim.targetLufs}
        min={-60}
        max={0}
        empty="as it is"
        onChange={(targetLufs) => onChange({ targetLufs })}
      />
      <Figure
        label="True peak, at most"
        unit="dBTP"
        value={aim.ceilingDbtp}
        min={-20}
        max={0}
        onChange={(ceilingDbtp) => ceilingDbtp !== null && onChange({ ceilingDbtp })}
      />
      <Figure
        label="Bed under the voices"
        unit="LU"
        value={aim.bedLu}
        min={0}
        max={40}
        onChange={(bedLu) => bedLu !== null && onChange({ bedLu })}
      />
    </div>
  );
}

function Figure({
  value,
  label,
  ...rest
}: {
  value: number | null;
  label: string;
  unit: string;
  min: number;
  max: number;
  empty?: string;
  onChange: (value: number | null) => void;
}) {
  return (
    <div>
      <span className="block text-xs text-soft">{label}</span>
      <FigureField {...rest} value={value} label={label} say={levelText} className="w-20" />
    </div>
  );
}
