const KEY = 'northfen.last';

/** Remembers which setup was open last, on this computer. */
export function rememberLast(setupId: string): void {
  try {
    localStorage.setItem(KEY, setupId);
  } catch {
    // Without storage the first setup is opened next time.
  }
}

/** Returns the id of the setup that was open last; null when none was. */
export function lastSetup(): string | null {
  try {
    return localStorage.getItem(KEY);
  } catch {
    return null;
  }
}
