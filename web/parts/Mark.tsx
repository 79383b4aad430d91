/** The marks of verdicts, as paths in a box of 16 by 16. */
export const MARKS = {
  tick: 'M3 8.5l3.5 3.5L13 4',
  drop: 'M8 2c3 4 4 6 4 8a4 4 0 0 1-8 0c0-2 1-4 4-8z',
  gap: 'M2 12h4M10 12h4M8 3v5',
  dash: 'M5 8h6',
};

/** Draws a mark beside the word that it stands with. */
export function Mark({ path }: { path: string }) {
  return (
    <svg
      aria-hidden="true"
      viewBox="0 0 16 16"
      className="h-3.5 w-3.5 shrink-0"
      fill="none"
      stroke="currentColor"
      strokeWidth="1.7"
      strokeLinecap="round"
    >
      <path d={path} />
    </svg>
  );
}
