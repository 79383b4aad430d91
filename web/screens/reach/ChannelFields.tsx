import { channelsOf } from '../../../core/setup/channels.ts';
import { CHANNEL_FOLDS, type TrackChannel } from '../../../core/setup/schema.ts';
import { DbField, fieldClass } from '../../parts/controls.tsx';

const FOLD_WORDS: Record<TrackChannel['fold'], string> = {
  left: 'to the left',
  right: 'to the right',
  both: 'to both sides',
  none: 'left out',
};

interface ChannelFieldsProps {
  channels: TrackChannel[];
  onChange: (channels: TrackChannel[]) => void;
}

/** The channels of a multichannel track: how many, and what each does in the fold-down to stereo. */
export function ChannelFields({ channels, onChange }: ChannelFieldsProps) {
  const change = (index: number, values: Partial<TrackChannel>) =>
    onChange(channels.map((one, i) => (i === index ? { ...one, ...values } : one)));
  return (
    <fieldset className="border border-rule px-3 py-2">
      <legend className="text-sm text-soft">Channels, and the fold-down that live and VOD get</legend>
      <label className="flex items-center gap-2 pb-2 text-sm">
        How many
        <select
          className={fieldClass}
          value={channels.length}
          onChange={(event) => onChange(channelsOf(Number(event.target.value), channels))}
        >
          {[3, 4, 5, 6, 7, 8].map((count) => (
            <option key={count}>{count}</option>
          ))}
        </select>
      </label>
      <table className="w-full text-sm">
        <tbody>
          {channels.map((channel, index) => (
            <tr key={index} className="border-t border-soft/30">
              <th scope="row" className="py-0.5 pr-2 text-left font-normal whitespace-nowrap">
                Channel {index + 1}
              </th>
              <td className="py-0.5 pr-2">
                <select
                  aria-label={`Channel ${index + 1} folds`}
                  className={fieldClass}
                  value={channel.fold}
                  onChange={(event) => change(index, { fold: event.target.value as TrackChannel['fold'] })}
                >
                  {CHANNEL_FOLDS.map((fold) => (
                    <option key={fold} value={fold}>
                      {FOLD_WORDS[fold]}
                    </option>
                  ))}
                </select>
              </td>
              <td className="py-0.5 text-right whitespace-nowrap">
                {channel.fold !== 'none' && (
                  <DbField
                    value={channel.gainDb}
                    label={`Channel ${index + 1} in the fold-down`}
                    onChange={(gainDb) => change(index, { gainDb })}
                  />
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </fieldset>
  );
}
