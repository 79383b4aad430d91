/** The keys of a screen, each with what it does. */
export function KeyLegend({ keys }: { keys: [key: string, what: string][] }) {
  return (
    <p className="flex flex-wrap gap-x-3 gap-y-1 text-xs text-soft">
      {keys.map(([key, what]) => (
        <span key={key}>
          <kbd className="border border-rule bg-sheet px-1 font-sans text-ink">{key}</kbd> {what}
        </span>
      ))}
    </p>
  );
}
