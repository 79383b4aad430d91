const FOCUSABLE =
  'a[href], button:not(:disabled), input:not(:disabled), select:not(:disabled), textarea:not(:disabled), [tabindex]:not([tabindex="-1"])';
/** Focus that goes within this time (ms) after a press was sent away by whoever pressed. */
const PRESS_MS = 300;

/** Where the focus was: the element, what it lay in from the inside out, and its place among what can be focused in each. */
interface Remembered {
  element: HTMLElement;
  homes: { home: HTMLElement; place: number }[];
}

/**
 * Keeps the focus where somebody works. When the element that has it is taken away, moved or switched off by what it did (a row
 * that is removed, a button that cannot be pressed any more), the focus goes to what stands in its place now, instead of to
 * nowhere.
 * @returns a function that ends it
 */
export function keepFocus(): () => void {
  let last: Remembered | null = null;
  let pressedAt = 0;
  const note = ({ target }: FocusEvent) => {
    if (target instanceof HTMLElement && target !== document.body) last = remember(target);
  };
  const press = () => {
    pressedAt = performance.now();
  };
  const tab = ({ key }: KeyboardEvent) => {
    if (key === 'Tab') press();
  };
  const look = () => {
    const { activeElement } = document;
    if (!last || (activeElement && activeElement !== document.body)) return;
    const isThere = last.element.isConnected && last.element.matches(FOCUSABLE);
    // Somebody pressed beside it, or Tab, which takes the focus away on purpose.
    if (isThere && performance.now() - pressedAt < PRESS_MS) return;
    restore(last);
  };
  const observer = new MutationObserver(() => queueMicrotask(look));
  observer.observe(document.body, { childList: true, subtree: true, attributeFilter: ['disabled'] });
  document.addEventListener('focusin', note);
  document.addEventListener('pointerdown', press);
  document.addEventListener('keydown', tab, true);
  return () => {
    observer.disconnect();
    document.removeEventListener('focusin', note);
    document.removeEventListener('pointerdown', press);
    document.removeEventListener('keydown', tab, true);
  };
}

/** Remembers where an element stands, so that the focus can go back there, or near it. */
export function remember(element: HTMLElement): Remembered {
  const homes: Remembered['homes'] = [];
  for (let home = element.parentElement; home && home !== document.body; home = home.parentElement)
    homes.push({ home, place: focusablesIn(home).indexOf(element) });
  return { element, homes };
}

/** Puts the focus where it was, or to what stands there now. */
export function restore({ element, homes }: Remembered): void {
  if (element.isConnected && element.matches(FOCUSABLE)) {
    element.focus({ preventScroll: true });
    return;
  }
  for (const { home, place } of homes) {
    if (!home.isConnected) continue;
    const there = focusablesIn(home);
    const next = home.tagName === 'MAIN' ? home : there[Math.max(0, Math.min(place, there.length - 1))];
    if (!next) continue;
    next.focus({ preventScroll: true });
    return;
  }
  document.querySelector<HTMLElement>('main')?.focus({ preventScroll: true });
}

function focusablesIn(home: HTMLElement): HTMLElement[] {
  return [...home.querySelectorAll<HTMLElement>(FOCUSABLE)];
}
