import type { RefObject } from 'react';

/** The hidden field by which a setup file is chosen: click it through `ref`. `onText` gets the file's text. */
export function SetupFileInput({
  ref,
  onText,
}: {
  ref: RefObject<HTMLInputElement | null>;
  onText: (text: string) => void;
}) {
  return (
    <input
      ref={ref}
      type="file"
      accept=".json,application/json"
      aria-label="Setup file"
      className="hidden"
      onChange={async (event) => {
        const chosen = event.target.files?.[0];
        event.target.value = '';
        if (chosen) onText(await chosen.text());
      }}
    />
  );
}
