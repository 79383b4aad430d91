import { clsx } from 'clsx';
import { X } from 'lucide-react';
import { Dialog } from 'radix-ui';
import { type ReactNode, useState } from 'react';
import { remember, restore } from './keepFocus.ts';

/**
 * A dialog: a sheet of paper over the screen, closed with Escape, the cross, or a click beside it. It owns all keys while it is
 * open, and the focus goes back to where it was.
 */
export function Sheet({
  title,
  onClose,
  wide = false,
  live = false,
  children,
}: {
  title: string;
  onClose: () => void;
  wide?: boolean;
  /** What is changed in it is changed at once, so that Ctrl Z takes it back while it is open. */
  live?: boolean;
  children: ReactNode;
}) {
  const [before] = useState(() =>
    document.activeElement instanceof HTMLElement ? remember(document.activeElement) : null,
  );
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-30 bg-ink/30" />
        <Dialog.Content
          aria-describedby={undefined}
          data-live={live ? '' : undefined}
          onEscapeKeyDown={(event) => {
            const { target } = event;
            // The first Escape leaves the text that is being typed, the second the sheet.
            const isTyped = target instanceof HTMLInputElement && target.dataset.said !== undefined;
            if (isTyped && target.value !== target.dataset.said) event.preventDefault();
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            if (before) restore(before);
          }}
          className={clsx(
            'fixed inset-x-0 top-0 z-40 mx-auto max-h-full max-w-full overflow-auto border border-soft bg-paper p-4 shadow-xl sm:top-16 sm:max-h-[85vh] sm:max-w-[94vw] sm:p-5',
            wide ? 'w-[56rem]' : 'w-[34rem]',
          )}
        >
          <div className="mb-3 flex items-baseline justify-between gap-3">
            <Dialog.Title className="font-title text-xl">{title}</Dialog.Title>
            <Dialog.Close aria-label="Close" className="-m-1 shrink-0 p-1 text-soft hover:text-ink">
              <X size={18} />
            </Dialog.Close>
          </div>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
