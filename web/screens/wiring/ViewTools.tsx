import { useEffect, useRef } from 'react';
import { Button, fieldClass } from '../../parts/controls.tsx';
import { isTaken } from '../../parts/isTyping.ts';
import { useSetup } from '../../setupContext.tsx';

/** Finding as one types, following one source through all places, and folding machines. */
export function ViewTools({
  find,
  followed,
  areFolded,
  onFind,
  onFollow,
  onFoldAll,
}: {
  find: string;
  followed: string | null;
  /** Whether every machine is folded. */
  areFolded: boolean;
  onFind: (text: string) => void;
  onFollow: (source: string | null) => void;
  onFoldAll: (isFolded: boolean) => void;
}) {
  const { setup } = useSetup();
  const field = useRef<HTMLInputElement>(null);
  const now = useRef({ followed, onFollow });
  now.current = { followed, onFollow };
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.altKey || event.metaKey || isTaken(event)) return;
      if (event.key === 'f') {
        event.preventDefault();
        field.current?.focus();
        field.current?.select();
        return;
      }
      const by = event.key === 'v' ? 1 : event.key === 'V' ? -1 : 0;
      if (by === 0) return;
      // Round through all sources, and none.
      const stops = [null, ...setup.sources.map(({ id }) => id)];
      const at = Math.max(0, stops.indexOf(now.current.followed));
      now.current.onFollow(stops[(at + by + stops.length) % stops.length]);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [setup.sources]);
  return (
    <div className="mb-3 space-y-2 narrow:flex narrow:flex-wrap narrow:gap-2 narrow:space-y-0">
      <label className="block">
        <span className="text-xs text-soft">Find (F)</span>
        <input
          ref={field}
          type="search"
          className={`${fieldClass} block w-full`}
          value={find}
          placeholder="a name"
          onChange={(event) => onFind(event.target.value)}
          onKeyDown={(event) => {
            if (event.key !== 'Escape') return;
            onFind('');
            event.currentTarget.blur();
          }}
        />
      </label>
      <label className="block">
        <span className="text-xs text-soft">Follow (V)</span>
        <select
          className={`${fieldClass} block w-full`}
          value={followed ?? ''}
          onChange={(event) => onFollow(event.target.value || null)}
        >
          <option value="">no source</option>
          {setup.sources.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
      </label>
      <Button className="wide:w-full" onClick={() => onFoldAll(!areFolded)}>
        {areFolded ? 'Open all' : 'Fold all'}
      </Button>
    </div>
  );
}
