import { clsx } from 'clsx';
import { ChevronDown, ChevronUp } from 'lucide-react';
import { type ReactNode, useId, useState } from 'react';

/**
 * What stands beside a screen's main part. Where the window is narrow it is a sheet at the foot of the window, of which the
 * summary is always seen; a press opens it.
 */
export function SidePanel({
  label,
  summary,
  children,
  className,
}: {
  label: string;
  /** What the foot of a narrow window says of it. */
  summary: ReactNode;
  children: ReactNode;
  className?: string;
}) {
  const [isOpen, setOpen] = useState(false);
  const id = useId();
  return (
    <aside
      aria-label={label}
      className={clsx(
        'flex min-h-0 flex-col bg-sheet wide:border-l wide:border-rule narrow:absolute narrow:inset-x-0 narrow:bottom-0 narrow:z-20 narrow:max-h-[75%] narrow:border-t-2 narrow:border-ink narrow:shadow-[0_-4px_12px_rgb(0_0_0/0.15)]',
      )}
    >
      <button
        type="button"
        aria-expanded={isOpen}
        aria-controls={id}
        onClick={() => setOpen(!isOpen)}
        className="flex w-full shrink-0 items-center justify-between gap-3 px-4 py-2.5 text-left text-sm wide:hidden"
      >
        <span className="min-w-0 truncate">{summary}</span>
        {isOpen ? <ChevronDown size={18} aria-hidden /> : <ChevronUp size={18} aria-hidden />}
      </button>
      <div
        id={id}
        className={clsx(
          'min-h-0 flex-1 overflow-auto px-4 py-3 narrow:border-t narrow:border-rule',
          !isOpen && 'narrow:hidden',
          className,
        )}
      >
        {children}
      </div>
    </aside>
  );
}
