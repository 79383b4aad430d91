import { Download, Pause, Play } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import WaveSurfer from 'wavesurfer.js';
import type { Track } from '../../../core/setup/schema.ts';
import { trackUrl } from '../../api/takes.ts';
import type { TrackMeasures } from '../../api/types.ts';
import { formatLevel } from '../../format.ts';
import { Button } from '../../parts/controls.tsx';
import { usePlayer } from './player.tsx';

interface TrackRowProps {
  takeId: string;
  number: number;
  track: Track;
  measures: TrackMeasures;
  durationS: number;
}

/** One track of a take: play it, see its waveform and its loudness, download it. */
export function TrackRow({ takeId, number, track, measures, durationS }: TrackRowProps) {
  const { container, playing, failed, toggle } = useWaveform(
    trackUrl(takeId, number),
    track.id,
    measures.outline,
    durationS,
  );
  return (
    <tr className="border-b border-rule" data-track={track.id}>
      <td className="py-1 pr-2">
        <Button onClick={toggle} aria-label={`${playing ? 'Pause' : 'Play'} track ${number}, ${track.name}`}>
          {playing ? <Pause size={15} /> : <Play size={15} />}
        </Button>
      </td>
      <td className="max-w-44 py-1 pr-3 leading-tight">
        <span className="block truncate font-semibold">
          {number} {track.name}
        </span>
        <span className="block truncate text-xs text-soft">{[...track.uses, track.purpose].join(', ')}</span>
      </td>
      <td className="w-full min-w-40 py-1 pr-3">
        <div
          ref={container}
          role="img"
          aria-label={`Waveform of ${track.name}`}
          className="border border-rule bg-sheet"
        />
        {failed && (
          <span className="text-xs text-clay">This track cannot be played. Download it instead.</span>
        )}
      </td>
      <td className="py-1 pr-3 text-right whitespace-nowrap">
        {formatLevel(measures.integratedLufs, 'LUFS')}
      </td>
      <td className="py-1 pr-3 text-right whitespace-nowrap">
        {formatLevel(measures.loudnessRangeLu, 'LU')}
      </td>
      <td
        className={`py-1 pr-3 text-right whitespace-nowrap ${(measures.truePeakDbtp ?? -99) > -1 ? 'text-clay' : ''}`}
      >
        {formatLevel(measures.truePeakDbtp, 'dBTP')}
        {(measures.truePeakDbtp ?? -99) > 0 && <span className="block text-xs">clips</span>}
      </td>
      <td className="py-1">
        <a
          href={trackUrl(takeId, number, true)}
          download
          aria-label={`Download track ${number}, ${track.name}, as WAV`}
          title="Download as WAV"
          className="inline-flex items-center gap-1 rounded-sm border border-rule bg-sheet px-2 py-1 text-sm hover:border-ink"
        >
          <Download size={14} /> WAV
        </a>
      </td>
    </tr>
  );
}

function useWaveform(url: string, trackId: string, outline: number[], durationS: number) {
  const container = useRef<HTMLDivElement>(null);
  const audio = useRef<HTMLAudioElement | null>(null);
  const player = usePlayer();
  const [playing, setPlaying] = useState(false);
  const [failed, setFailed] = useState(false);

  useEffect(() => {
    if (!container.current) return;
    const sound = new Audio();
    sound.preload = 'none';
    sound.src = url;
    sound.onerror = () => setFailed(true);
    sound.onplay = () => setPlaying(true);
    sound.onpause = () => setPlaying(false);
    audio.current = sound;
    const forget = player.register(trackId, sound);
    const waves = WaveSurfer.create({
      container: container.current,
      media: sound,
      peaks: [outline],
      duration: durationS,
      height: 34,
      waveColor: '#5e9aa1',
      progressColor: '#1f6f78',
      cursorColor: '#b7791f',
      cursorWidth: 2,
      dragToSeek: true,
    });
    return () => {
      forget();
      waves.destroy();
    };
  }, [url, trackId, outline, durationS, player]);

  const toggle = () => {
    const sound = audio.current;
    if (!sound) return;
    if (sound.paused) void sound.play().catch(() => setFailed(true));
    else sound.pause();
  };
  return { container, playing, failed, toggle };
}
