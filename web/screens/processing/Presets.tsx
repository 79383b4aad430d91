import { useState } from 'react';
import { keysOf, type Processing } from '../../../core/processors/processing.ts';
import { removePreset, savePreset, usePresets } from '../../api/presets.ts';
import { Button, fieldClass, RemoveButton } from '../../parts/controls.tsx';

interface PresetsProps {
  processing: Processing;
  /** Whether a source is one that can be ducked under. */
  isKey: (source: string) => boolean;
  onSet: (processing: Processing) => void;
}

/** Processings with names: taken over, as far as there is what they duck under; kept; taken away. */
export function Presets({ processing, isKey, onSet }: PresetsProps) {
  const { data: presets = [] } = usePresets();
  const [chosen, setChosen] = useState('');
  const [name, setName] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const attempt = (work: Promise<void>) =>
    work.then(
      () => setProblem(null),
      (error: Error) => setProblem(error.message),
    );
  const keep = () => {
    const wanted = name?.trim();
    if (!wanted) return;
    void attempt(savePreset({ name: wanted.slice(0, 80), processing }));
    setChosen(wanted);
    setName(null);
  };
  const preset = presets.find((one) => one.name === chosen);
  return (
    <span className="ml-auto inline-flex flex-wrap items-center gap-1.5">
      {presets.length > 0 && (
        <>
          <select
            aria-label="Preset"
            className={fieldClass}
            value={preset ? chosen : ''}
            onChange={(event) => {
              setChosen(event.target.value);
              const taken = presets.find((one) => one.name === event.target.value);
              if (taken) onSet(taken.processing.filter((step) => keysOf([step]).every(isKey)));
            }}
          >
            <option value="">presets …</option>
            {presets.map((one) => (
              <option key={one.name}>{one.name}</option>
            ))}
          </select>
          {preset && (
            <RemoveButton
              label={`Remove the preset ${preset.name}`}
              onClick={() => void attempt(removePreset(preset.name))}
            />
          )}
        </>
      )}
      {name === null ? (
        <Button disabled={processing.length === 0} onClick={() => setName(preset?.name ?? '')}>
          Keep as a preset …
        </Button>
      ) : (
        <>
          <input
            // biome-ignore lint/a11y/noAutofocus: it appears where the button was that asked for it
            autoFocus
            aria-label="Name of the preset"
            className={`${fieldClass} w-40`}
            value={name}
            maxLength={80}
            onChange={(event) => setName(event.target.value)}
            onKeyDown={(event) => {
              event.stopPropagation();
              if (event.key === 'Enter') keep();
              if (event.key === 'Escape') setName(null);
            }}
          />
          <Button disabled={name.trim() === ''} onClick={keep}>
            Keep
          </Button>
        </>
      )}
      {problem && (
        <span role="alert" className="text-sm text-clay">
          {problem}
        </span>
      )}
    </span>
  );
}
