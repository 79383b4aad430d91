import type { QueryClient } from '@tanstack/react-query';
import { applyEdit, type Edit } from '../../core/setup/edits.ts';
import { describeEdit } from '../../core/setup/editWords.ts';
import type { Setup } from '../../core/setup/schema.ts';
import { ApiError } from './client.ts';
import type { StoredSetup } from './types.ts';
import type { Change, ChangeStore } from './unsaved.ts';

/** How the queue reaches the server. */
export interface Server {
  /** Makes a change on a revision. @throws {ApiError} */
  send(change: Change, revision: number): Promise<StoredSetup>;
  /** Returns the setup as the server has it. */
  fetch(): Promise<StoredSetup>;
}

/** How the changes stand: all with the server, on their way, or waiting for a server that cannot take them now. */
export interface QueueState {
  status: 'saved' | 'saving' | 'waiting';
  /** How many changes are not with the server yet. */
  count: number;
  /** Why they wait. */
  reason: string | null;
}

/** Told once: changes that could not be made, each with what it was. */
export type OnRefused = (message: string) => void;

const SAVED: QueueState = { status: 'saved', count: 0, reason: null };
/** A server that does not answer is asked again after so long (ms); at last every so often. */
const RETRY_MS = [500, 1000, 2000, 5000];
/** A change that others come before again and again is given up after so many tries. */
const MOST_TRIES = 25;

/**
 * The changes of one setup, in one window. They are shown at once, kept where they outlive a reload, and sent one after the
 * other. What another window did meanwhile is taken in first, and the change made on top of it; only where it no longer
 * fits it is dropped, and told by its name. While the server is away they wait.
 */
export class EditQueue {
  private readonly client: QueryClient;
  private readonly id: string;
  private readonly server: Server;
  private readonly store: ChangeStore;
  private readonly onRefused: OnRefused;
  private readonly later: (run: () => void) => void;
  private readonly listeners = new Set<() => void>();
  private waiting: Change[] = [];
  /** The setup as the server has it. */
  private base: StoredSetup | null = null;
  private announced = 0;
  private running: Promise<void> | null = null;
  private wake: () => void = () => {};
  /** Somebody asked for a try while none was waited for: the next wait is none. */
  private isWoken = false;
  private current: QueueState = SAVED;

  /** @param later calls a function once a change has been drawn, so that sending it does not hold up the key; at once when left out */
  constructor(
    client: QueryClient,
    id: string,
    server: Server,
    store: ChangeStore,
    onRefused: OnRefused,
    later: (run: () => void) => void = (run) => run(),
  ) {
    this.client = client;
    this.id = id;
    this.server = server;
    this.store = store;
    this.onRefused = onRefused;
    this.later = later;
    this.waiting = store.load(id);
    if (this.waiting.length > 0) this.current = this.waitingState('saving', null);
  }

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  get state(): QueueState {
    return this.current;
  }

  /** True while a change is not with the server yet. */
  get busy(): boolean {
    return this.waiting.length > 0;
  }

  /** Takes in the setup as the server has it, and returns what is to be shown: that, with the changes that wait. */
  take(stored: StoredSetup): StoredSetup {
    if (!this.base || stored.revision >= this.base.revision) this.base = stored;
    if (this.busy) this.run();
    return this.shown(this.base);
  }

  /** Adds a change; an edit is shown at once. Refused at once where it cannot be applied. */
  add(change: Change): void {
    this.waiting = [...this.waiting, change];
    this.store.save(this.id, this.waiting);
    this.setState(
      this.waitingState(this.current.status === 'waiting' ? 'waiting' : 'saving', this.current.reason),
    );
    this.show();
    this.later(() => {
      this.run();
      this.wake();
    });
  }

  /** Adds changes that came from elsewhere, before all others. */
  adopt(changes: Change[]): void {
    if (changes.length === 0) return;
    this.waiting = [...changes, ...this.waiting];
    this.store.save(this.id, this.waiting);
    this.setState(this.waitingState('saving', null));
    this.show();
    this.run();
  }

  /** Tries at once, instead of at the next time that it would. */
  retry(): void {
    this.isWoken = true;
    this.wake();
  }

  /**
   * Takes in that the server has a revision, which may be of another window: fetches it, at once or when the changes that
   * are on their way have arrived.
   */
  announce(revision: number): void {
    this.announced = Math.max(this.announced, revision);
    if (!this.busy) this.catchUp();
    else this.wake();
  }

  private catchUp(): void {
    if (!this.base || this.base.revision >= this.announced) return;
    void this.client.invalidateQueries({ queryKey: ['setup', this.id] });
  }

  private run(): void {
    this.running ??= this.sendAll().finally(() => {
      this.running = null;
    });
  }

  private async sendAll(): Promise<void> {
    let tries = 0;
    let failures = 0;
    while (this.waiting.length > 0) {
      const [change] = this.waiting;
      try {
        this.base ??= await this.server.fetch();
        const stored = await this.server.send(change, this.base.revision);
        this.base = stored;
        this.finish(change);
        tries = 0;
        failures = 0;
      } catch (error) {
        if (isAway(error)) {
          this.setState(this.waitingState('waiting', (error as Error).message));
          await this.pause(RETRY_MS[Math.min(failures, RETRY_MS.length - 1)]);
          failures += 1;
        } else if (error instanceof ApiError && error.code === 'stale' && tries < MOST_TRIES) {
          tries += 1;
          await this.refresh();
        } else {
          this.finish(change);
          this.onRefused(refusal(change, error));
          await this.refresh();
          this.show();
        }
      }
    }
    this.setState(SAVED);
    this.catchUp();
    void this.client.invalidateQueries({ queryKey: ['setups'] });
    void this.client.invalidateQueries({ queryKey: ['history', this.id] });
  }

  private async refresh(): Promise<void> {
    try {
      this.base = await this.server.fetch();
    } catch {
      // The next try says what is wrong.
    }
  }

  private finish(change: Change): void {
    this.waiting = this.waiting.filter((one) => one !== change);
    this.store.save(this.id, this.waiting);
    this.setState(this.busy ? this.waitingState('saving', null) : SAVED);
    if (!this.busy || change.kind !== 'edit') this.show();
  }

  private show(): void {
    if (this.base) this.client.setQueryData<StoredSetup>(['setup', this.id], this.shown(this.base));
  }

  /** A setup with the changes that wait; one that does not fit is left out here, and refused when it is sent. */
  private shown(stored: StoredSetup): StoredSetup {
    let { setup, undo, redo } = stored;
    for (const change of this.waiting) {
      if (change.kind !== 'edit') continue;
      const next = tryEdit(setup, change.edit);
      if (!next) continue;
      setup = next;
      undo = change.label;
      redo = null;
    }
    return setup === stored.setup ? stored : { ...stored, setup, undo, redo };
  }

  private waitingState(status: 'saving' | 'waiting', reason: string | null): QueueState {
    return { status, count: this.waiting.length, reason };
  }

  private setState(state: QueueState): void {
    const { status, count, reason } = this.current;
    if (status === state.status && count === state.count && reason === state.reason) return;
    this.current = state;
    for (const listener of this.listeners) listener();
  }

  private pause(ms: number): Promise<void> {
    if (this.isWoken) {
      this.isWoken = false;
      return Promise.resolve();
    }
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, ms);
      this.wake = () => {
        clearTimeout(timer);
        this.isWoken = false;
        resolve();
      };
    });
  }
}

/** Makes a change of an edit. @throws {EditError} where it does not fit the setup */
export function changeOf(setup: Setup, edit: Edit): Change {
  const after = applyEdit(setup, edit);
  const label = describeEdit(edit, edit.edit.startsWith('remove') ? setup : after);
  return { id: crypto.randomUUID(), kind: 'edit', edit, label };
}

function tryEdit(setup: Setup, edit: Edit): Setup | null {
  try {
    return applyEdit(setup, edit);
  } catch {
    return null;
  }
}

/** The server is not there, is starting, or has no room: what is to be done can be done later. */
function isAway(error: unknown): boolean {
  return (
    error instanceof ApiError &&
    (error.status === 0 || error.status === 507 || error.status === 503 || error.status === 502)
  );
}

function refusal(change: Change, error: unknown): string {
  const message = error instanceof Error ? error.message : String(error);
  // The label says what it is about; where in the edit the rule stands helps nobody.
  const rule = message.replace(/^edit\.[\w.[\]]+: /, '');
  return change.kind === 'edit' ? `“${change.label}” was not made: ${rule}` : message;
}
