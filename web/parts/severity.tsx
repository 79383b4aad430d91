import type { Severity } from '../../core/findings/finding.ts';

const WORDS: Record<Severity, { word: string; className: string }> = {
  stop: { word: 'Stop', className: 'text-clay' },
  warn: { word: 'Look', className: 'text-reed' },
  note: { word: 'Note', className: 'text-soft' },
};

/** The word and the mark of a severity: a barrier, an eye of water, a dot. */
export function SeverityMark({ severity }: { severity: Severity }) {
  const { word, className } = WORDS[severity];
  return (
    <span className={`inline-flex items-center gap-1 font-semibold ${className}`}>
      <svg
        aria-hidden="true"
        viewBox="0 0 16 16"
        className="h-3.5 w-3.5"
        fill="none"
        stroke="currentColor"
        strokeWidth="1.8"
      >
        {severity === 'stop' && <path d="M2 5h12M2 10h12M4 5v9M12 5v9M5 10l4-5M9 10l4-5" />}
        {severity === 'warn' && <path d="M1.5 8q6.5-8 13 0q-6.5 8-13 0zM8 8h.01" strokeLinecap="round" />}
        {severity === 'note' && <path d="M8 8h.01" strokeWidth="5" strokeLinecap="round" />}
      </svg>
      {word}
    </span>
  );
}
