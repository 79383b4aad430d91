import { X } from 'lucide-react';
import { createContext, type ReactNode, useCallback, useContext, useMemo, useState } from 'react';

type Kind = 'done' | 'trouble';
interface Notice {
  id: number;
  kind: Kind;
  text: string;
}

const NoticeContext = createContext<(kind: Kind, text: string) => void>(() => {});

/** Returns a function that shows a sentence for a while; trouble stays until it is dismissed. */
export function useNotify(): (kind: Kind, text: string) => void {
  return useContext(NoticeContext);
}

let nextId = 1;

/** Shows notices at the foot of the window, and gives its children the means to add some. */
export function NoticeProvider({ children }: { children: ReactNode }) {
  const [notices, setNotices] = useState<Notice[]>([]);
  const dismiss = useCallback((id: number) => setNotices((all) => all.filter((one) => one.id !== id)), []);
  const notify = useCallback(
    (kind: Kind, text: string) => {
      const id = nextId++;
      setNotices((all) => [...all.filter((one) => one.text !== text).slice(-2), { id, kind, text }]);
      if (kind === 'done') setTimeout(() => dismiss(id), 5000);
    },
    [dismiss],
  );
  const value = useMemo(() => notify, [notify]);
  return (
    <NoticeContext.Provider value={value}>
      {children}
      <div
        className="pointer-events-none fixed inset-x-0 bottom-4 z-50 flex flex-col items-center gap-2"
        aria-live="polite"
      >
        {notices.map(({ id, kind, text }) => (
          <div
            key={id}
            role={kind === 'trouble' ? 'alert' : 'status'}
            className={`pointer-events-auto flex max-w-2xl items-start gap-3 border-l-4 bg-sheet px-4 py-2 shadow-lg ${kind === 'trouble' ? 'border-clay' : 'border-moss'}`}
          >
            <span>
              <strong className={kind === 'trouble' ? 'text-clay' : 'text-moss'}>
                {kind === 'trouble' ? 'Trouble: ' : 'Done: '}
              </strong>
              {text}
            </span>
            <button
              type="button"
              aria-label="Dismiss"
              onClick={() => dismiss(id)}
              className="mt-0.5 text-soft hover:text-ink"
            >
              <X size={16} />
            </button>
          </div>
        ))}
      </div>
    </NoticeContext.Provider>
  );
}
