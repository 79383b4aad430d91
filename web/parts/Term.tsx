import { Tooltip } from 'radix-ui';
import { memo, type ReactNode, useState } from 'react';
import { glossaryEntry, wordsIn } from '../../core/words/glossary.ts';

/** A word of the glossary: marked, and explained on hover, on focus, and when it is tapped. */
export function Term({ word, children = word }: { word: string; children?: ReactNode }) {
  const [isOpen, setOpen] = useState(false);
  const entry = glossaryEntry(word);
  if (!entry) return children;
  return (
    <Tooltip.Provider delayDuration={200}>
      <Tooltip.Root open={isOpen} onOpenChange={setOpen}>
        <Tooltip.Trigger asChild>
          <button
            type="button"
            className="cursor-help border-b border-dotted border-current text-left"
            onClick={(event) => {
              event.preventDefault();
              setOpen(true);
            }}
          >
            {children}
          </button>
        </Tooltip.Trigger>
        <Tooltip.Portal>
          <Tooltip.Content
            sideOffset={4}
            collisionPadding={8}
            className="z-50 max-w-72 border border-ink bg-sheet px-3 py-2 text-sm leading-snug text-ink shadow-sm"
          >
            <strong>{entry.word}</strong> {entry.means}
          </Tooltip.Content>
        </Tooltip.Portal>
      </Tooltip.Root>
    </Tooltip.Provider>
  );
}

/** The words of a text that are not everyday, each to be explained; nothing where it has none. */
export const TermsIn = memo(function TermsIn({ text }: { text: string }) {
  const words = wordsIn(text);
  if (words.length === 0) return null;
  return (
    <p className="flex flex-wrap gap-x-3 text-xs text-soft">
      <span>What is</span>
      {words.map(({ word }) => (
        <Term key={word} word={word} />
      ))}
    </p>
  );
});
