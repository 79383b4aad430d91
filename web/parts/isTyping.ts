/** Tells whether keys that are pressed there are meant for a field. */
export function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    target.matches('input:not([type=checkbox], [type=radio]), textarea, select, [role=slider]')
  );
}

/** What lies over the screen and has the keys while it is open. */
const OVER = '[role=dialog], [role=menu], [role=listbox], [role=alertdialog]';

/**
 * Tells whether a key is none of the screen's business: it is typed into a field, or something lies over the screen (a sheet, a
 * menu), which then owns all keys.
 */
export function isTaken(event: KeyboardEvent): boolean {
  return isTyping(event.target) || isCovered();
}

/** Tells whether something lies over the screen. */
export function isCovered(): boolean {
  return document.querySelector(OVER) !== null;
}

/**
 * Tells whether undo (Ctrl Z) belongs to the setup: always, but in a text that is just being typed, whose own undo comes first, and
 * under a sheet, unless its changes are made at once (`data-live`).
 */
export function undoIsForSetup({ target }: KeyboardEvent): boolean {
  const over = [...document.querySelectorAll<HTMLElement>(OVER)].at(-1);
  if (over && over.dataset.live === undefined) return false;
  const isText = target instanceof HTMLInputElement && !/^(checkbox|radio|range)$/.test(target.type);
  if (target instanceof HTMLTextAreaElement) return false;
  return !isText || target.value === target.dataset.said;
}
