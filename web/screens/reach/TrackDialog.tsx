import { zodResolver } from '@hookform/resolvers/zod';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { channelsOf } from '../../../core/setup/channels.ts';
import {
  TRACK_CODECS,
  TRACK_PURPOSES,
  TRACK_USES,
  type Track,
  TrackSchema,
} from '../../../core/setup/schema.ts';
import { fieldClass } from '../../parts/controls.tsx';
import { DialogFoot } from '../../parts/dialogParts.tsx';
import { Sheet } from '../../parts/Sheet.tsx';
import { ChannelFields } from './ChannelFields.tsx';

const FormSchema = TrackSchema.omit({ id: true });
type TrackValues = Omit<Track, 'id'>;

const USE_WORDS = { live: 'Live: it goes on air', vod: 'VOD: it stays online', file: 'File: it is recorded' };
const PURPOSE_WORDS = {
  publish: 'publish – may be uploaded as it is',
  edit: 'edit – one sound alone, for cutting',
  reference: 'reference – to listen to, not to publish',
};
const CODEC_WORDS: Record<(typeof TRACK_CODECS)[number], string> = {
  'pcm-s16': 'PCM, 16 bit',
  'pcm-s24': 'PCM, 24 bit',
  'pcm-f32': 'PCM, 32-bit float',
  flac: 'FLAC (16 bit)',
  aac: 'AAC',
  opus: 'Opus',
};

interface TrackDialogProps {
  title: string;
  track: TrackValues;
  number: number | null;
  count: number;
  onSave: (values: TrackValues) => void;
  onMove?: (to: number) => void;
  onRemove?: () => void;
  onClose: () => void;
}

/** A track of the sheet: name, uses, purpose, codec, layout; its place, and removing it. */
export function TrackDialog({
  title,
  track,
  number,
  count,
  onSave,
  onMove,
  onRemove,
  onClose,
}: TrackDialogProps) {
  const form = useForm<TrackValues>({ defaultValues: track, resolver: zodResolver(FormSchema) });
  const [position, setPosition] = useState(number ?? 1);
  const codec = form.watch('codec');
  const channels = form.watch('channels');
  const isMany = form.watch('layout') === 'multichannel';
  const { errors } = form.formState;
  return (
    <Sheet title={title} onClose={onClose}>
      <form
        className="space-y-4"
        onSubmit={form.handleSubmit(({ channels: listed, ...values }) => {
          onSave(isMany ? { ...values, channels: listed ?? channelsOf(4) } : values);
          if (number !== null && position !== number) onMove?.(position - 1);
          onClose();
        })}
      >
        <div>
          <label className="block">
            <span className="text-sm text-soft">Name</span>
            <input
              className={`${fieldClass} block w-full`}
              aria-describedby="track-name-trouble"
              {...form.register('name')}
            />
          </label>
          <span id="track-name-trouble" className="text-sm text-clay">
            {errors.name && `The name ${errors.name.message}.`}
          </span>
        </div>
        <fieldset>
          <legend className="text-sm text-soft">Uses</legend>
          {TRACK_USES.map((use) => (
            <label key={use} className="flex items-center gap-2">
              <input type="checkbox" value={use} {...form.register('uses')} />
              {USE_WORDS[use]}
            </label>
          ))}
        </fieldset>
        <label className="block">
          <span className="text-sm text-soft">Purpose</span>
          <select className={`${fieldClass} block w-full`} {...form.register('purpose')}>
            {TRACK_PURPOSES.map((purpose) => (
              <option key={purpose} value={purpose}>
                {PURPOSE_WORDS[purpose]}
              </option>
            ))}
          </select>
        </label>
        <div className="flex gap-3">
          <label className="block flex-1">
            <span className="text-sm text-soft">Codec</span>
            <select className={`${fieldClass} block w-full`} {...form.register('codec')}>
              {TRACK_CODECS.map((one) => (
                <option key={one} value={one}>
                  {CODEC_WORDS[one]}
                </option>
              ))}
            </select>
          </label>
          {(codec === 'aac' || codec === 'opus') && (
            <label className="block w-28">
              <span className="text-sm text-soft">kb/s</span>
              <input
                type="number"
                className={`${fieldClass} block w-full`}
                {...form.register('bitrateKbps', {
                  setValueAs: (value) => (value === '' || value == null ? undefined : Number(value)),
                })}
              />
              {errors.bitrateKbps && <span className="text-sm text-clay">from 32 to 512</span>}
            </label>
          )}
          <label className="block w-36">
            <span className="text-sm text-soft">Layout</span>
            <select className={`${fieldClass} block w-full`} {...form.register('layout')}>
              <option value="stereo">stereo</option>
              <option value="mono">mono</option>
              <option value="multichannel">multichannel</option>
            </select>
          </label>
        </div>
        {onMove && number !== null && (
          <label className="flex items-center gap-2 text-sm">
            Its number on the sheet
            <select
              className={fieldClass}
              value={position}
              onChange={(event) => setPosition(Number(event.target.value))}
            >
              {Array.from({ length: count }, (_, index) => (
                <option key={index} value={index + 1}>
                  {index + 1}
                </option>
              ))}
            </select>
          </label>
        )}
        {isMany && (
          <ChannelFields
            channels={channels ?? channelsOf(4)}
            onChange={(next) => form.setValue('channels', next, { shouldDirty: true })}
          />
        )}
        {isMany && (codec === 'aac' || codec === 'opus') && (
          <p className="text-sm text-clay">
            A multichannel track is recorded as PCM or FLAC, which keep every channel apart. Choose one of
            them.
          </p>
        )}
        <DialogFoot
          submit={onRemove ? 'Save' : 'Add the track'}
          disabled={false}
          onClose={onClose}
          onRemove={onRemove}
        />
      </form>
    </Sheet>
  );
}
