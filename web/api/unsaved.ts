import type { Edit } from '../../core/setup/edits.ts';

/** A change that waits for the server. `id` names it, so that the server makes it once, however often it is sent. */
export type Change = { id: string; label: string } & (
  | { kind: 'edit'; edit: Edit }
  | { kind: 'undo' }
  | { kind: 'redo' }
  | { kind: 'back'; to: number }
);

/** Where changes that wait are kept, so that they outlive a reload and the end of the browser. */
export interface ChangeStore {
  load(setupId: string): Change[];
  save(setupId: string, changes: Change[]): void;
}

const PREFIX = 'northfen.unsaved.';

/** Returns a store in the browser's own storage, under this window's name. */
export function browserStore(windowId: string): ChangeStore {
  const keyOf = (setupId: string) => `${PREFIX}${setupId}.${windowId}`;
  return {
    load: (setupId) => read(keyOf(setupId)),
    save: (setupId, changes) => {
      try {
        if (changes.length === 0) localStorage.removeItem(keyOf(setupId));
        else localStorage.setItem(keyOf(setupId), JSON.stringify(changes));
      } catch {
        // Without storage the changes still wait in this window.
      }
    },
  };
}

/** Takes over the changes that windows which are closed by now have left for a setup, in the order of the windows. */
export async function adoptLeft(setupId: string, ownWindow: string): Promise<Change[]> {
  const left: Change[] = [];
  for (const key of Object.keys(localStorage).filter((one) => one.startsWith(`${PREFIX}${setupId}.`))) {
    const windowId = key.slice(`${PREFIX}${setupId}.`.length);
    if (windowId === ownWindow) continue;
    await navigator.locks.request(lockOf(windowId), { ifAvailable: true }, async (lock) => {
      if (!lock) return;
      left.push(...read(key));
      localStorage.removeItem(key);
    });
  }
  return left;
}

/** Holds the lock that says that this window is open. */
export function holdWindow(windowId: string): void {
  void navigator.locks?.request(lockOf(windowId), () => new Promise(() => {}));
}

function lockOf(windowId: string): string {
  return `northfen.window.${windowId}`;
}

function read(key: string): Change[] {
  try {
    const found: unknown = JSON.parse(localStorage.getItem(key) ?? '[]');
    return Array.isArray(found) ? (found as Change[]) : [];
  } catch {
    return [];
  }
}
