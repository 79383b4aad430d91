/** Tells whether keys that are pressed there are meant for a field. */
export function isTyping(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && target.matches('input:not([type=checkbox]), textarea, select');
}
