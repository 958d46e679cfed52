import { type ChildProcess, fork } from 'node:child_process';
import { extname } from 'node:path';
import type { FromWorker, ToWorker } from './messages.js';

export interface WorkerOptions {
  /** The program of the process: a file of this package. */
  readonly file: string;
  readonly memoryMegabytes: number;
  /** How long it may compute without a word, in milliseconds. */
  readonly patience: number;
}

/** A piece of work that was not done, for a reason that a person is told: it took too long, or more memory than there is. */
export class WorkLost extends Error {}

/** A worker takes some seconds to start on a busy machine. */
const LONGEST_START = 60_000;
const LOOK_EVERY = 500;
/** A worker that is lost twice over the same work is lost by it. */
const MOST_TRIES = 2;

interface Pending {
  readonly id: number;
  readonly name: string;
  readonly argument: unknown;
  readonly step: (what: unknown) => void;
  tries: number;
  resolve(value: unknown): void;
  reject(error: Error): void;
}

export interface AskOptions {
  readonly signal?: AbortSignal;
  readonly step?: (what: unknown) => void;
}

/**
 * A process that computes what must not hold up the server. One that says nothing for longer than its patience, or needs
 * more memory than it may have, is ended with all that it started: the work that it was at is lost, and whoever else
 * waits is asked again of another.
 */
export class Worker {
  private process: ChildProcess | null = null;
  private readonly pending = new Map<number, Pending>();
  private next = 1;
  private heard = 0;
  private ready = false;
  private at: number | null = null;
  private looking: NodeJS.Timeout | null = null;
  private complaint = '';
  private closed = false;
  /** What a process that is started anew is put before anything else; null for nothing. */
  private first: Pending | null = null;

  constructor(private readonly options: WorkerOptions) {}

  /** Puts a piece of work to it. @throws {WorkLost} where it is lost by it; else what the work throws */
  ask(name: string, argument: unknown, { signal, step = () => undefined }: AskOptions = {}): Promise<unknown> {
    if (this.closed) return Promise.reject(new WorkLost('This program is closing.'));
    return new Promise((resolve, reject) => {
      const id = this.next++;
      const aborted = () => this.send({ kind: 'stop', id });
      const settled = () => signal?.removeEventListener('abort', aborted);
      const pending: Pending = {
        id,
        name,
        argument,
        step,
        tries: 0,
        resolve: (value) => {
          settled();
          resolve(value);
        },
        reject: (error) => {
          settled();
          reject(error);
        },
      };
      this.pending.set(id, pending);
      this.put(pending);
      signal?.addEventListener('abort', aborted, { once: true });
      if (signal?.aborted === true) aborted();
    });
  }

  /** Puts a piece of work as `ask` does; and where another process has to be started later, puts it there first. */
  begin(name: string, argument: unknown, again: string, step: (what: unknown) => void): Promise<unknown> {
    this.first = { id: this.next++, name: again, argument, step, tries: 0, resolve: () => undefined, reject: () => undefined };
    return this.ask(name, argument, { step });
  }

  /** Whether something is under way. */
  get busy(): boolean {
    return this.pending.size > 0;
  }

  /** Ends the process once it has taken away what it made; the next piece of work would start another. */
  async rest(): Promise<void> {
    const ending = this.process;
    if (ending === null || ending.exitCode !== null) return;
    this.process = null;
    await new Promise<void>((resolve) => {
      ending.once('exit', () => resolve());
      if (ending.connected) ending.disconnect();
      else kill(ending);
    });
  }

  async close(): Promise<void> {
    this.closed = true;
    for (const { reject } of this.pending.values()) reject(new WorkLost('This program is closing.'));
    this.pending.clear();
    this.watch();
    await this.rest();
  }

  private put(pending: Pending): void {
    pending.tries += 1;
    const starts = this.process === null;
    try {
      this.process ??= this.start();
    } catch (error) {
      this.pending.delete(pending.id);
      pending.reject(new WorkLost(`No process could be started for it (${String(error)}). Try again when there is room.`));
      return;
    }
    if (!this.busy || this.looking === null) this.heard = performance.now();
    const { first } = this;
    if (starts && first !== null && first.argument !== pending.argument) {
      this.pending.set(first.id, first);
      this.put(first);
    }
    this.send({ kind: 'ask', id: pending.id, name: pending.name, argument: pending.argument });
    this.watch();
  }

  private send(message: ToWorker): void {
    const to = this.process;
    if (to?.connected !== true) return;
    to.send(message, (error) => {
      if (error !== null) this.lose(to, 'its channel broke');
    });
  }

  private start(): ChildProcess {
    const { file, memoryMegabytes } = this.options;
    const started = fork(file, [], {
      serialization: 'advanced',
      // A group of its own, so that it is ended with all that it started.
      detached: true,
      execArgv: [`--max-old-space-size=${memoryMegabytes}`, ...(extname(file) === '.ts' ? ['--import', 'tsx'] : [])],
      stdio: ['ignore', 'ignore', 'pipe', 'ipc'],
    });
    this.ready = false;
    this.at = null;
    this.complaint = '';
    started.stderr?.on('data', (chunk: Buffer) => {
      this.complaint = `${this.complaint}${chunk.toString()}`.slice(-4000);
    });
    started.on('message', (message: FromWorker) => {
      if (this.process === started) this.take(message);
    });
    started.on('error', (error) => this.lose(started, error.message));
    started.on('exit', () => {
      const isTooMuch = /heap out of memory/.test(this.complaint);
      this.lose(started, isTooMuch ? 'it needed more memory than it may have' : 'its process ended', isTooMuch);
    });
    return started;
  }

  private take(message: FromWorker): void {
    this.heard = performance.now();
    if (message.kind === 'ready') this.ready = true;
    else if (message.kind === 'at') this.at = message.id;
    else if (message.kind === 'step') this.pending.get(message.id)?.step(message.what);
    else if (message.kind === 'done' || message.kind === 'failed') {
      const pending = this.pending.get(message.id);
      this.pending.delete(message.id);
      if (message.kind === 'done') pending?.resolve(message.value);
      else pending?.reject(Object.assign(new Error(message.message), { stack: message.stack }));
      this.watch();
    }
  }

  /** Looks after the process for as long as something is under way. */
  private watch(): void {
    if (!this.busy) {
      if (this.looking !== null) clearInterval(this.looking);
      this.looking = null;
      return;
    }
    this.looking ??= setInterval(() => {
      const silent = performance.now() - this.heard;
      const { process } = this;
      if (process === null) return;
      const patience = this.ready ? this.options.patience : LONGEST_START;
      if (silent > patience) this.lose(process, `it took longer than ${Math.round(patience / 1000)} s`, true);
      else this.send({ kind: 'are you there' });
    }, LOOK_EVERY);
  }

  /** @param byWork it is the work that it was at that cost the process; else somebody ended it, and that is tried again too */
  private lose(lost: ChildProcess, why: string, byWork = false): void {
    kill(lost);
    if (this.process !== lost) return;
    this.process = null;
    const at = byWork ? this.at : null;
    // What it was lost by is not put to the next one again.
    if (at !== null && this.pending.get(at)?.argument === this.first?.argument) this.first = null;
    for (const pending of Array.from(this.pending.values())) {
      if (pending.id !== at && pending.tries < MOST_TRIES) {
        this.put(pending);
        continue;
      }
      this.pending.delete(pending.id);
      pending.reject(new WorkLost(why));
    }
    this.watch();
  }
}

/** Ends a process with all that it started. */
function kill(process: ChildProcess): void {
  if (process.pid === undefined) return;
  try {
    globalThis.process.kill(-process.pid, 'SIGKILL');
  } catch {
    process.kill('SIGKILL');
  }
}
