import { createChannel, createSession } from 'better-sse';
import type { Request, Response } from 'express';

/** What happens on the server that open windows want to know. */
export type EventName =
  | 'setup'
  | 'setups'
  | 'job'
  | 'media'
  | 'takes'
  | 'room'
  | 'presets'
  | 'check'
  | 'checks'
  | 'delivery'
  | 'deliveries'
  | 'marks'
  | 'mediaFolder';

/** Sends events to every open window (server-sent events). */
export class EventHub {
  private readonly channel = createChannel();

  /** Keeps the answer to a request open and sends events on it until the window closes. */
  async connect(request: Request, response: Response): Promise<void> {
    this.channel.register(await createSession(request, response));
  }

  send(name: EventName, data: unknown): void {
    this.channel.broadcast(data, name);
  }
}
