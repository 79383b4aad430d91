/** What is remembered where the browser keeps nothing for us. */
const memory = new Map<string, string>();

/** The name of this window: the same over reloads, another one in each tab. */
export const WINDOW_ID = remembered('northfen.window', () => crypto.randomUUID());

/** Remembers (once) the revision at which this window opened a setup: what was done before may be taken back here, too. */
export function openedAt(setupId: string, revision: number): number {
  return Number(remembered(keyOf(setupId), () => String(revision)));
}

/** Tells whether it is known at which revision this window opened a setup. */
export function isOpened(setupId: string): boolean {
  return read(keyOf(setupId)) !== null;
}

/** What addresses carry, so that the server knows which window asks. */
export function asWindow(setupId: string): string {
  const from = read(keyOf(setupId));
  return new URLSearchParams({ window: WINDOW_ID, ...(from !== null && { openedAt: from }) }).toString();
}

function keyOf(setupId: string): string {
  return `northfen.opened.${setupId}`;
}

function read(key: string): string | null {
  try {
    return sessionStorage.getItem(key) ?? memory.get(key) ?? null;
  } catch {
    return memory.get(key) ?? null;
  }
}

function remembered(key: string, make: () => string): string {
  const known = read(key);
  if (known !== null) return known;
  const value = make();
  memory.set(key, value);
  try {
    sessionStorage.setItem(key, value);
  } catch {
    // Without storage it is remembered until the next reload.
  }
  return value;
}
