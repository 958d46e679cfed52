import { type ChildProcess, fork } from 'node:child_process';
import type { CallOptions, Outcome, Problem, Progress } from './engine.js';
import type { Ask, AskMessage, ChildMessage, ToChild } from './protocol.js';
import { SentPlans } from './sent-plans.js';

/** How an engine that has no server runs: in a process of its own, which can be ended. */
export interface ChildOptions {
  /** The program of the process: a file of this package. */
  readonly file: string;
  readonly args: readonly string[];
  /** How long one call may take, from when the process begins with it. */
  readonly milliseconds: number;
  readonly memoryMegabytes: number;
}

/** A database in a process of its own. */
export interface Child {
  call<T>(ask: Ask, place: string | null, options?: CallOptions): Promise<Outcome<T>>;
  close(): Promise<void>;
}

/** How long a process that is asked to end is waited for. */
const GRACE = 3000;

interface Call {
  readonly message: AskMessage;
  progress(done: Progress): void;
  settle(outcome: Outcome<unknown>): void;
}

/** The call that a process is at, and the statement of it that it has come to. */
interface Running {
  readonly call: Call;
  readonly process: ChildProcess;
  readonly timer: NodeJS.Timeout;
  sql: string | null;
}

/**
 * A process that answers calls, one after the other. What runs in it cannot be interrupted, so a call that is stopped or
 * past its limit ends the process; the calls that wait are put to another, which is started for the next of them.
 */
export function openChild(options: ChildOptions): Child {
  const calls = new CallQueue(options);
  return {
    call: (ask, place, options) => calls.call(ask, place, options),
    close: () => calls.close(),
  };
}

function failed(code: Problem['code'], message: string): Outcome<never> {
  return { ok: false, problem: { code, message } };
}

/** The calls that wait for a process, and the one that it is at. */
class CallQueue {
  private readonly waiting: Call[] = [];
  private process: ChildProcess | null = null;
  private running: Running | null = null;
  private next = 1;
  private closed = false;
  /** What each process has of the plans that it was sent. */
  private readonly plans = new WeakMap<ChildProcess, SentPlans>();

  constructor(private readonly options: ChildOptions) {}

  call<T>(ask: Ask, place: string | null, { signal, progress = () => undefined }: CallOptions = {}): Promise<Outcome<T>> {
    return new Promise((resolve) => {
      if (this.closed || signal?.aborted === true) {
        resolve(failed('ended', this.closed ? 'This database is closed.' : 'Stopped.'));
        return;
      }
      const aborted = () => this.abort(own);
      const own: Call = {
        message: { id: this.next++, place, ask },
        progress,
        settle: (outcome) => {
          signal?.removeEventListener('abort', aborted);
          resolve(outcome as Outcome<T>);
        },
      };
      signal?.addEventListener('abort', aborted, { once: true });
      this.waiting.push(own);
      this.goOn();
    });
  }

  async close(): Promise<void> {
    this.closed = true;
    for (const waiting of this.waiting.splice(0)) waiting.settle(failed('ended', 'This database is closed.'));
    if (this.process !== null) await ended(this.process);
  }

  private goOn(): void {
    if (this.running !== null) return;
    const call = this.waiting.shift();
    if (call === undefined) return;
    try {
      this.process ??= this.start();
    } catch (error) {
      const why = error instanceof Error ? error.message : String(error);
      call.settle(failed('ended', `The database’s process could not be started (${why}). Try again when there is room.`));
      this.goOn();
      return;
    }
    const asked = this.process;
    const timer = setTimeout(() => this.stop(failed('timeout', this.tooLong())), this.options.milliseconds);
    this.running = { call, process: asked, timer, sql: null };
    const plans = this.plans.get(asked) ?? new SentPlans();
    this.plans.set(asked, plans);
    asked.send({ kind: 'ask', ...call.message, ...plans.sent(call.message.ask) } satisfies ToChild, (error) => {
      if (error !== null) this.lose(asked, `does not listen (${error.message})`);
    });
  }

  private start(): ChildProcess {
    const { file, args, memoryMegabytes } = this.options;
    const started = fork(file, [...args], {
      serialization: 'advanced',
      execArgv: [`--max-old-space-size=${memoryMegabytes}`, ...(file.endsWith('.ts') ? ['--import', 'tsx'] : [])],
      stdio: ['ignore', 'ignore', 'pipe', 'ipc'],
    });
    let complaint = '';
    started.stderr?.on('data', (chunk: Buffer) => {
      complaint = `${complaint}${chunk.toString()}`.slice(-4000);
    });
    started.on('message', (message: ChildMessage) => this.hear(started, message));
    // Not started for want of files or memory, or its channel broke.
    started.on('error', (error) => this.lose(started, `could not go on (${error.message})`));
    started.on('exit', () =>
      this.lose(
        started,
        /heap out of memory/.test(complaint) ? 'needed more memory than it may have' : 'ended before it answered',
      ),
    );
    return started;
  }

  private hear(from: ChildProcess, message: ChildMessage): void {
    const { running } = this;
    if (running === null || running.process !== from || running.call.message.id !== message.id) return;
    switch (message.kind) {
      case 'done':
        this.finish(message.outcome);
        break;
      case 'running':
        running.sql = message.sql;
        break;
      case 'progress':
        running.timer.refresh();
        running.call.progress(message.done);
    }
  }

  /** Ends the call that is running with an outcome, and goes on with the next. */
  private finish(outcome: Outcome<unknown>): void {
    if (this.running === null) return;
    clearTimeout(this.running.timer);
    const { call } = this.running;
    this.running = null;
    call.settle(outcome);
    this.goOn();
  }

  /** The process is of no use any more: whatever it was at has ended. */
  private lose(lost: ChildProcess, why: string): void {
    if (this.process === lost) this.process = null;
    lost.kill('SIGKILL');
    if (this.running?.process === lost)
      this.finish(failed('ended', `The database’s process ${why}. Ask for less at once, or try again.`));
  }

  /** Ends the call that is running, and its process. */
  private stop(outcome: Outcome<never>): void {
    if (this.running === null) return;
    const { process } = this.running;
    if (this.process === process) this.process = null;
    process.kill('SIGKILL');
    this.finish(outcome);
  }

  private abort(call: Call): void {
    const { running } = this;
    if (running?.call === call && call.message.ask.kind === 'lines in') {
      // Rows that are being written are taken back by the process itself: a file that it left would have to be mended first.
      running.process.send({ kind: 'stop', id: call.message.id } satisfies ToChild);
      setTimeout(() => {
        if (this.running?.call === call) this.stop(failed('ended', 'Stopped.'));
      }, GRACE).unref();
    } else if (running?.call === call) this.stop(failed('ended', 'Stopped.'));
    else if (this.waiting.includes(call)) {
      this.waiting.splice(this.waiting.indexOf(call), 1);
      call.settle(failed('ended', 'Stopped.'));
    }
  }

  private tooLong(): string {
    const seconds = Math.round(this.options.milliseconds / 100) / 10;
    const sql = this.running?.sql ?? null;
    return `Stopped after ${seconds} s${sql === null ? '' : `, while this ran:\n${sql}`}`;
  }
}

/** Lets a process end by itself, and ends it where it does not. */
async function ended(process: ChildProcess): Promise<void> {
  if (process.exitCode !== null || process.signalCode !== null) return;
  await new Promise<void>((resolve) => {
    const timer = setTimeout(() => process.kill('SIGKILL'), GRACE);
    process.once('exit', () => {
      clearTimeout(timer);
      resolve();
    });
    if (process.connected) process.disconnect();
    else process.kill('SIGKILL');
  });
}
