import type { RoomSource } from '../../../core/plan/room.ts';
import { CLEARANCE_PRESETS, type ClearancePreset, safePresetOf } from '../../../core/setup/clearance.ts';
import { isPlugged, SOURCE_KINDS } from '../../../core/setup/schema.ts';
import { fieldClass, MoveButtons, RemoveButton } from '../../parts/controls.tsx';

const PRESETS = Object.keys(CLEARANCE_PRESETS) as ClearancePreset[];

/** The sources of a setup that is being planned, in order of priority. */
export function PlannedSources({
  sources,
  hasTwo,
  onChange,
}: {
  sources: RoomSource[];
  hasTwo: boolean;
  onChange: (sources: RoomSource[]) => void;
}) {
  const set = (at: number, values: Partial<RoomSource>) =>
    onChange(sources.map((source, index) => (index === at ? { ...source, ...values } : source)));
  const move = (from: number, to: number) => {
    const next = [...sources];
    next.splice(to, 0, ...next.splice(from, 1));
    onChange(next);
  };
  return (
    <div className="overflow-x-auto">
      <table className="stacking w-full border-collapse" aria-label="Planned sources">
        <tbody>
          {sources.map((source, index) => {
            const name = source.name || `source ${index + 1}`;
            return (
              <tr key={index} className="border-b border-rule">
                <td className="w-6 py-1 text-soft narrow:hidden">{index + 1}</td>
                <td className="py-1 pr-2">
                  <input
                    aria-label={`Name of source ${index + 1}`}
                    className={`${fieldClass} w-44`}
                    value={source.name}
                    maxLength={80}
                    onChange={(event) => set(index, { name: event.target.value })}
                  />
                </td>
                <td className="py-1 pr-2">
                  <select
                    aria-label={`Kind of ${name}`}
                    className={fieldClass}
                    value={source.kind}
                    onChange={(event) => {
                      const kind = event.target.value as RoomSource['kind'];
                      const isSafe = source.preset === safePresetOf(source.kind);
                      set(index, { kind, ...(isSafe && { preset: safePresetOf(kind) }) });
                    }}
                  >
                    {SOURCE_KINDS.map((kind) => (
                      <option key={kind}>{kind}</option>
                    ))}
                  </select>
                </td>
                <td className="py-1 pr-2">
                  <select
                    aria-label={`${name} is cleared for`}
                    className={fieldClass}
                    value={source.preset}
                    onChange={(event) => set(index, { preset: event.target.value as ClearancePreset })}
                  >
                    {PRESETS.map((preset) => (
                      <option key={preset} value={preset}>
                        {CLEARANCE_PRESETS[preset].label}
                      </option>
                    ))}
                  </select>
                </td>
                {hasTwo && (
                  <td className="py-1 pr-2">
                    {!isPlugged(source.kind) && (
                      <select
                        aria-label={`Machine of ${name}`}
                        className={fieldClass}
                        value={source.onStreaming ? 'streaming' : 'playing'}
                        onChange={(event) => set(index, { onStreaming: event.target.value === 'streaming' })}
                      >
                        <option value="playing">playing</option>
                        <option value="streaming">streaming</option>
                      </select>
                    )}
                  </td>
                )}
                <td className="py-1 text-right whitespace-nowrap">
                  <MoveButtons
                    name={name}
                    index={index}
                    count={sources.length}
                    onMove={(to) => move(index, to)}
                  />
                  <RemoveButton
                    label={`Remove ${name}`}
                    onClick={() => onChange(sources.filter((_, at) => at !== index))}
                  />
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
