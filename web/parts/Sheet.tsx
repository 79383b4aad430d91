import { clsx } from 'clsx';
import { X } from 'lucide-react';
import { Dialog } from 'radix-ui';
import type { ReactNode } from 'react';

/** A dialog: a sheet of paper over the screen, closed with Escape, the cross, or a click beside it. */
export function Sheet({
  title,
  onClose,
  wide = false,
  children,
}: {
  title: string;
  onClose: () => void;
  wide?: boolean;
  children: ReactNode;
}) {
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-30 bg-ink/30" />
        <Dialog.Content
          aria-describedby={undefined}
          className={clsx(
            'fixed top-16 left-1/2 z-40 max-h-[85vh] max-w-[94vw] -translate-x-1/2 overflow-auto border border-soft bg-paper p-5 shadow-xl',
            wide ? 'w-[56rem]' : 'w-[34rem]',
          )}
        >
          <div className="mb-3 flex items-baseline justify-between">
            <Dialog.Title className="font-title text-xl">{title}</Dialog.Title>
            <Dialog.Close aria-label="Close" className="text-soft hover:text-ink">
              <X size={18} />
            </Dialog.Close>
          </div>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
