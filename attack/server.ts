import { type ChildProcess, spawn } from 'node:child_process';
import { join } from 'node:path';

/** A server in a process of its own, on a data folder. */
export class AttackedServer {
  readonly process: ChildProcess;
  readonly port: number;
  private output = '';

  /** Ends every server that still runs. */
  static endAll(): void {
    for (const server of AttackedServer.all) server.process.kill('SIGKILL');
    AttackedServer.all.clear();
  }

  private static readonly all = new Set<AttackedServer>();

  constructor(root: string, dataDir: string, port: number, env: Record<string, string> = {}) {
    this.port = port;
    this.process = spawn(process.execPath, [join(root, 'dist/node/server.js')], {
      env: { ...process.env, PORT: String(port), NORTHFEN_DATA_DIR: dataDir, NORTHFEN_DEMO: '0', ...env },
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    AttackedServer.all.add(this);
    for (const stream of [this.process.stdout, this.process.stderr])
      stream?.on('data', (text: Buffer) => {
        this.output += text.toString();
      });
  }

  /** What it has written so far. */
  get said(): string {
    return this.output;
  }

  get isAlive(): boolean {
    return this.process.exitCode === null && this.process.signalCode === null;
  }

  /** Waits until it is ready. @throws when it ends before */
  async ready(): Promise<void> {
    while (!this.output.includes('is ready')) {
      if (!this.isAlive) throw new Error(`the server ended: ${this.output}`);
      await pause(20);
    }
  }

  async ended(): Promise<void> {
    while (this.isAlive) await pause(10);
  }

  /** Asks it something; an answer of any status is an answer. */
  async ask(
    path: string,
    init: RequestInit & { json?: unknown } = {},
  ): Promise<{ status: number; body: unknown }> {
    const { json, ...rest } = init;
    const options =
      json === undefined
        ? rest
        : { ...rest, body: JSON.stringify(json), headers: { 'Content-Type': 'application/json' } };
    const response = await fetch(`http://127.0.0.1:${this.port}/api${path}`, options);
    const text = await response.text();
    return { status: response.status, body: text ? JSON.parse(text) : null };
  }
}

export function pause(ms: number): Promise<void> {
  return new Promise((resolve) => setTimeout(resolve, ms));
}
