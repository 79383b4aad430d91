import { useQueryClient } from '@tanstack/react-query';
import { clsx } from 'clsx';
import { ChartColumn, Play, Square, Upload } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import type { Source } from '../../../core/setup/schema.ts';
import { ApiError } from '../../api/client.ts';
import { mediaPath, uploadMedia, useMedia } from '../../api/media.ts';
import type { Media } from '../../api/types.ts';
import { formatClock, formatLevel } from '../../format.ts';
import { Button, fieldClass, ProgressBar } from '../../parts/controls.tsx';
import { Strip } from '../../parts/Strip.tsx';
import { useRehearsal } from '../../rehearsal.tsx';
import { ReadingSheet } from './ReadingSheet.tsx';

type Sending = { file: File; share: number; abort: AbortController } | { file: File; problem: ApiError };

/** The recording that a source rehearses with: choose one that is there, or upload another. */
export function RecordingField({
  source,
  onChange,
  narrow = false,
  powers,
}: {
  source: Source;
  onChange: (media: Source['media']) => void;
  narrow?: boolean;
  /** Its power over time, once it is known. */
  powers?: Float64Array;
}) {
  const { data: media = [] } = useMedia();
  const client = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const [upload, setUpload] = useState<Sending | null>(null);
  const [isReading, setReading] = useState(false);
  const chosen = media.find((one) => mediaPath(one) === source.media?.path);
  const isLost = source.media !== null && !chosen && media.length > 0;

  const send = async (file: File, allowCut = false) => {
    const abort = new AbortController();
    setUpload({ file, share: 0, abort });
    try {
      const added = await uploadMedia(file, {
        allowCut,
        signal: abort.signal,
        onProgress: (share) => setUpload({ file, share, abort }),
      });
      await client.invalidateQueries({ queryKey: ['media'] });
      setUpload(null);
      onChange({ path: mediaPath(added) });
    } catch (error) {
      if (error instanceof ApiError && error.code === 'cancelled') setUpload(null);
      else if (error instanceof ApiError) setUpload({ file, problem: error });
    }
  };

  return (
    <div className={clsx('max-w-full', narrow ? 'w-64 narrow:w-80' : 'w-80')}>
      <div className="flex gap-1">
        <select
          aria-label={`Recording of ${source.name}`}
          className={`${fieldClass} min-w-0 flex-1`}
          value={isLost ? 'lost' : (chosen?.id ?? '')}
          onChange={(event) => {
            const next = media.find((one) => one.id === event.target.value);
            onChange(next ? { path: mediaPath(next) } : null);
          }}
        >
          <option value="">none: silent</option>
          {isLost && <option value="lost">not found: {source.media?.path}</option>}
          {media.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
        {chosen && <Listen media={chosen} />}
        {chosen && (
          <Button
            onClick={() => setReading(true)}
            aria-label={`Levels and hum of ${source.name}`}
            title="Levels, gate and hum"
          >
            <ChartColumn size={14} />
          </Button>
        )}
        <Button
          onClick={() => input.current?.click()}
          aria-label={`Upload a recording for ${source.name}`}
          title="Upload a recording"
        >
          <Upload size={14} />
        </Button>
        <input
          ref={input}
          type="file"
          accept="audio/*,video/*,.mkv,.wav,.flac"
          className="hidden"
          aria-label={`File for ${source.name}`}
          onChange={(event) => {
            const file = event.target.files?.[0];
            event.target.value = '';
            if (file) void send(file);
          }}
        />
      </div>
      {upload && 'share' in upload && (
        <div className="mt-1 flex items-center gap-2">
          <ProgressBar share={upload.share} label={`Uploading ${upload.file.name}`} />
          <span className="text-xs whitespace-nowrap text-soft">
            {upload.share < 1 ? 'uploading' : 'reading'}
          </span>
          <Button weight="quiet" onClick={() => upload.abort.abort()}>
            Cancel
          </Button>
        </div>
      )}
      {upload && 'problem' in upload && (
        <div role="alert" className="mt-1 text-sm text-clay">
          {upload.problem.message}
          <span className="mt-1 flex gap-2">
            {upload.problem.code === 'media-cut-off' && (
              <Button onClick={() => void send(upload.file, true)}>Use the part that is there</Button>
            )}
            <Button onClick={() => input.current?.click()}>Choose another</Button>
            <Button weight="quiet" onClick={() => setUpload(null)}>
              Dismiss
            </Button>
          </span>
        </div>
      )}
      {!upload && chosen && (
        <div className="relative mt-0.5 text-xs leading-5 text-soft">
          {powers && (
            <div className="absolute inset-0 opacity-55">
              <Strip powers={powers} label={`When ${source.name} sounds in the rehearsal`} />
            </div>
          )}
          <span className="relative">{factsOf(chosen)}</span>
        </div>
      )}
      {isReading && chosen && (
        <ReadingSheet name={chosen.name} path={mediaPath(chosen)} onClose={() => setReading(false)} />
      )}
      {!upload && isLost && (
        <span className="text-xs text-clay">
          The recording is not on this computer. Choose or upload one.
        </span>
      )}
    </div>
  );
}

function factsOf({ durationS, channels, sampleRate, integratedLufs, codec }: Media): string {
  const layout = channels === 1 ? 'mono' : channels === 2 ? 'stereo' : `${channels} channels`;
  return `${formatClock(durationS)}, ${codec}, ${layout}, ${sampleRate / 1000} kHz, ${formatLevel(integratedLufs, 'LUFS')}`;
}

function Listen({ media }: { media: Media }) {
  const audio = useRef<HTMLAudioElement | null>(null);
  const { transport } = useRehearsal();
  const [playing, setPlaying] = useState(false);
  useEffect(() => () => audio.current?.pause(), []);
  const toggle = () => {
    if (playing) {
      audio.current?.pause();
      setPlaying(false);
      return;
    }
    transport?.pause();
    audio.current = new Audio(`/api/media/${media.id}/file`);
    audio.current.onended = () => setPlaying(false);
    audio.current.play().then(
      () => setPlaying(true),
      () => setPlaying(false),
    );
  };
  return (
    <Button onClick={toggle} aria-label={playing ? `Stop ${media.name}` : `Listen to ${media.name}`}>
      {playing ? <Square size={14} /> : <Play size={14} />}
    </Button>
  );
}
