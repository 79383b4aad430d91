/** Why work is stopped when the server ends. */
export const CLOSING = Symbol('the server ends');

/** What is being worked on. */
interface Running {
  id: string;
  stop: AbortController;
  ended: Promise<void>;
}

/** Works on one thing after the other, as long as some wait. */
export class OneByOne<T extends { id: string }> {
  private readonly nextWaiting: () => T | undefined;
  private readonly work: (one: T, signal: AbortSignal) => Promise<void>;
  private running: Running | null = null;
  private isClosing = false;

  /**
   * @param nextWaiting what is to be worked on next
   * @param work never rejects; what it works on must wait no more once it has been called
   */
  constructor(nextWaiting: () => T | undefined, work: (one: T, signal: AbortSignal) => Promise<void>) {
    this.nextWaiting = nextWaiting;
    this.work = work;
  }

  /** Goes on with what waits, if nothing is being worked on. */
  next(): void {
    if (this.running || this.isClosing) return;
    const one = this.nextWaiting();
    if (!one) return;
    const stop = new AbortController();
    const ended = this.work(one, stop.signal).finally(() => {
      this.running = null;
      // What could not even be noted down (a full disk) is not tried for ever: it waits for the next occasion.
      if (this.nextWaiting()?.id !== one.id) this.next();
    });
    this.running = { id: one.id, stop, ended };
  }

  /** Tells what is being worked on to end. @returns once it has; at once where something else is worked on, or nothing */
  async stop(id: string): Promise<void> {
    if (this.running?.id !== id) return;
    this.running.stop.abort();
    await this.running.ended;
  }

  /** Interrupts what is being worked on, for the server’s end. */
  async close(): Promise<void> {
    this.isClosing = true;
    this.running?.stop.abort(CLOSING);
    await this.running?.ended;
  }
}
