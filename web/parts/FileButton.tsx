import { type ReactNode, useRef } from 'react';
import { Button } from './controls.tsx';

/** A button that lets somebody choose files; the same files can be chosen again. */
export function FileButton({
  label,
  accept = 'audio/*,video/*,.mkv,.mka,.wav,.flac',
  isMany = false,
  onFiles,
  children,
  ...button
}: {
  /** What is chosen, for those who do not see the button. */
  label: string;
  accept?: string;
  isMany?: boolean;
  weight?: 'main' | 'plain';
  disabled?: boolean;
  onFiles: (files: File[]) => void;
  children: ReactNode;
}) {
  const picker = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button {...button} onClick={() => picker.current?.click()}>
        {children}
      </Button>
      <input
        ref={picker}
        type="file"
        multiple={isMany}
        className="sr-only"
        aria-label={label}
        accept={accept}
        onChange={(event) => {
          onFiles([...(event.target.files ?? [])]);
          event.target.value = '';
        }}
      />
    </>
  );
}
