import type { QueryClient } from '@tanstack/react-query';
import type { StoredSetup } from './types.ts';

/** Makes a change on a revision of the setup, and returns the setup that it led to. */
type Step = (revision: number) => Promise<StoredSetup>;

/** Sends the changes of one setup one after the other, each on the revision that the one before led to. */
export class EditQueue {
  private readonly client: QueryClient;
  private readonly id: string;
  private last: Promise<void> = Promise.resolve();
  private waiting = 0;
  private revision = 0;
  private announced = 0;
  private isCatchingUp = false;

  constructor(client: QueryClient, id: string) {
    this.client = client;
    this.id = id;
  }

  /** True while a change is on its way. */
  get busy(): boolean {
    return this.waiting > 0;
  }

  /** True while the screen is ahead of the server, whose state is then not shown; a refused change ends that. */
  get isAhead(): boolean {
    return this.busy && !this.isCatchingUp;
  }

  add(step: Step, onError: (error: unknown) => void): void {
    this.waiting += 1;
    this.last = this.last.then(() => this.run(step, onError));
  }

  /**
   * Takes in that the server has a revision, which may be of another window: fetches it, at once or when the changes that
   * are on their way have arrived.
   */
  announce(revision: number): void {
    this.announced = Math.max(this.announced, revision);
    this.catchUp();
  }

  private catchUp(): void {
    const known = this.client.getQueryData<StoredSetup>(['setup', this.id]);
    if (this.busy || !known || known.revision >= this.announced) return;
    void this.client.invalidateQueries({ queryKey: ['setup', this.id] });
  }

  private async run(step: Step, onError: (error: unknown) => void): Promise<void> {
    const known = this.client.getQueryData<StoredSetup>(['setup', this.id]);
    try {
      const stored = await step(Math.max(this.revision, known?.revision ?? 0));
      this.revision = stored.revision;
      this.waiting -= 1;
      if (this.waiting === 0) this.client.setQueryData(['setup', this.id], stored);
      this.catchUp();
      void this.client.invalidateQueries({ queryKey: ['setups'] });
    } catch (error) {
      this.waiting -= 1;
      this.revision = 0;
      onError(error);
      this.isCatchingUp = true;
      await this.client.invalidateQueries({ queryKey: ['setup', this.id] });
      this.isCatchingUp = false;
    }
  }
}
