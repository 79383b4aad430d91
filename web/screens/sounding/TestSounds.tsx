import { Download, Play, Square } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { SAMPLE_RATE } from '../../../core/audio/planes.ts';
import { deviceOf } from '../../../core/reach/graph.ts';
import { nameOf } from '../../../core/setup/edits.ts';
import type { Setup, Source } from '../../../core/setup/schema.ts';
import { PERIOD_FRAMES, REPETITIONS } from '../../../core/sounding/code.ts';
import { testSoundUrl } from '../../api/sounding.ts';
import { Button } from '../../parts/controls.tsx';
import { useSetup } from '../../setupContext.tsx';

/** How long one test sound lasts (s). */
const LASTS_S = (PERIOD_FRAMES / SAMPLE_RATE) * REPETITIONS;

/** The test sound of each source: where it is played, to save, and to play from this page. */
export function TestSounds() {
  const { id, setup } = useSetup();
  const { playing, toggle } = usePlayer(id);
  const outputs = useOutputs();
  const [output, setOutput] = useState('');
  return (
    <section aria-label="Test sounds" className="mt-5">
      <h2 className="border-b-2 border-ink pb-1 font-title text-xl">1. Play the test sounds, and record</h2>
      <p className="mt-2 max-w-3xl text-sm text-soft">
        Start your recording first. Each sound lasts {LASTS_S} s; they may sound together and begin whenever
        you like. A source that you leave out is left out of what is read.
      </p>
      {outputs.length > 1 && (
        <label className="mt-2 flex items-center gap-2 text-sm">
          Play from this page into
          <select
            className="border border-rule bg-sheet px-2 py-1"
            value={output}
            onChange={(event) => setOutput(event.target.value)}
          >
            <option value="">the usual output</option>
            {outputs.map(({ deviceId, label }) => (
              <option key={deviceId} value={deviceId}>
                {label || deviceId.slice(0, 8)}
              </option>
            ))}
          </select>
        </label>
      )}
      <ul aria-label="Sources" className="mt-2 grid gap-x-8 wide:grid-cols-2">
        {setup.sources.map((source) => (
          <li key={source.id} className="flex items-center gap-3 border-b border-rule py-1.5">
            <span className="min-w-0 flex-1">
              <span className="block truncate font-semibold">{source.name}</span>
              <span className="block text-xs text-soft">{whereToPlay(setup, source)}</span>
            </span>
            <Button
              aria-label={`${playing === source.id ? 'Stop' : 'Play'} the test sound of ${source.name}`}
              onClick={() => toggle(source.id, output)}
            >
              {playing === source.id ? <Square size={14} /> : <Play size={14} />}
              {playing === source.id ? 'Stop' : 'Play here'}
            </Button>
            <a
              className="flex items-center gap-1 text-sm text-water underline"
              href={`${testSoundUrl(id, source.id)}?download=1`}
              aria-label={`Save the test sound of ${source.name}`}
            >
              <Download size={14} /> Save
            </a>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Says in a few words where a test sound is to come from. */
function whereToPlay(setup: Setup, source: Source): string {
  const machine = source.machine ? ` on ${nameOf(setup, source.machine)}` : '';
  if (source.kind === 'microphone') return 'out of a loudspeaker beside the microphone';
  const device = deviceOf(setup, source);
  const app = source.app ?? source.name;
  return device
    ? `in ${app}${machine}, or in a player into “${nameOf(setup, device)}”`
    : `in ${app}${machine}, as the recorder takes it alone`;
}

/** Plays one test sound at a time, into an output of this computer. */
function usePlayer(setupId: string) {
  const audio = useRef<HTMLAudioElement | null>(null);
  const [playing, setPlaying] = useState<string | null>(null);
  useEffect(() => () => audio.current?.pause(), []);
  const toggle = async (source: string, output: string) => {
    audio.current?.pause();
    if (playing === source) {
      setPlaying(null);
      return;
    }
    const next = new Audio(testSoundUrl(setupId, source));
    audio.current = next;
    next.onended = () => setPlaying((now) => (now === source ? null : now));
    setPlaying(source);
    const choose = (next as HTMLAudioElement & { setSinkId?: (id: string) => Promise<void> }).setSinkId;
    if (output && choose) await choose.call(next, output).catch(() => {});
    await next.play().catch(() => setPlaying(null));
  };
  return { playing, toggle };
}

/** The outputs of this computer, as far as the browser tells. */
function useOutputs(): MediaDeviceInfo[] {
  const [outputs, setOutputs] = useState<MediaDeviceInfo[]>([]);
  useEffect(() => {
    navigator.mediaDevices
      ?.enumerateDevices()
      .then((devices) =>
        setOutputs(devices.filter(({ kind, deviceId }) => kind === 'audiooutput' && deviceId !== '')),
      )
      .catch(() => {});
  }, []);
  return outputs;
}
