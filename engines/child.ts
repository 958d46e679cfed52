import { type ChildProcess, fork } from 'node:child_process';
import type { Outcome } from './engine.js';
import type { Ask, ChildMessage } from './protocol.js';

/** How an engine that has no server runs: in a process of its own, which can be ended. */
export interface ChildOptions {
  /** The program of the process: a file of this package. */
  readonly file: string;
  readonly args: readonly string[];
  /** How long one call may take. */
  readonly milliseconds: number;
  readonly memoryMegabytes: number;
}

/** A database in a process of its own. */
export interface Child {
  call<T>(ask: Ask, place: string | null, milliseconds?: number): Promise<Outcome<T>>;
  stop(): void;
  close(): Promise<void>;
}

interface Waiting {
  readonly process: ChildProcess;
  readonly resolve: (outcome: Outcome<unknown>) => void;
  readonly timer: NodeJS.Timeout;
  running: string | null;
}

/**
 * A process that answers calls. What runs in it cannot be interrupted, so a call past its limit ends the process; the
 * next call starts another.
 */
export function openChild(options: ChildOptions): Child {
  let child: ChildProcess | null = null;
  let next = 1;
  let closed = false;
  const waiting = new Map<number, Waiting>();

  const settle = (id: number, outcome: Outcome<unknown>) => {
    const call = waiting.get(id);
    if (call === undefined) return;
    clearTimeout(call.timer);
    waiting.delete(id);
    call.resolve(outcome);
  };

  const start = (): ChildProcess => {
    const started = fork(options.file, [...options.args], {
      serialization: 'advanced',
      execArgv: [`--max-old-space-size=${options.memoryMegabytes}`, ...(options.file.endsWith('.ts') ? ['--import', 'tsx'] : [])],
      stdio: ['ignore', 'ignore', 'pipe', 'ipc'],
    });
    let complaint = '';
    started.stderr?.on('data', (chunk: Buffer) => {
      complaint = `${complaint}${chunk.toString()}`.slice(-4000);
    });
    started.on('message', (message: ChildMessage) => {
      if (message.kind === 'done') settle(message.id, message.outcome);
      else {
        const call = waiting.get(message.id);
        if (call !== undefined) call.running = message.sql;
      }
    });
    started.on('exit', () => {
      if (child === started) child = null;
      for (const [id, call] of waiting) {
        if (call.process !== started) continue;
        const reason = /heap out of memory/.test(complaint) ? 'needed more memory than it may have' : 'ended before it answered';
        settle(id, {
          ok: false,
          problem: { code: 'ended', message: `The database’s process ${reason}. Ask for less at once, or try again.` },
        });
      }
    });
    return started;
  };

  const call = <T>(ask: Ask, place: string | null, milliseconds = options.milliseconds): Promise<Outcome<T>> =>
    new Promise((resolve) => {
      if (closed) {
        resolve({ ok: false, problem: { code: 'ended', message: 'This database is closed.' } });
        return;
      }
      child ??= start();
      const asked = child;
      const id = next++;
      const timer = setTimeout(() => {
        const running = waiting.get(id)?.running;
        const seconds = Math.round(milliseconds / 100) / 10;
        settle(id, {
          ok: false,
          problem: {
            code: 'timeout',
            message: `Stopped after ${seconds} s${running === null || running === undefined ? '' : `, while this ran:\n${running}`}`,
          },
        });
        asked.kill('SIGKILL');
        if (child === asked) child = null;
      }, milliseconds);
      waiting.set(id, { process: asked, resolve: resolve as (outcome: Outcome<unknown>) => void, timer, running: null });
      asked.send({ id, place, ask });
    });

  return {
    call,
    stop: () => {
      const stopped = child;
      child = null;
      for (const [id, { process }] of waiting)
        if (process === stopped) settle(id, { ok: false, problem: { code: 'ended', message: 'Stopped.' } });
      stopped?.kill('SIGKILL');
    },
    close: async () => {
      closed = true;
      const ending = child;
      if (ending === null) return;
      await new Promise<void>((resolve) => {
        ending.once('exit', () => resolve());
        ending.disconnect();
      });
    },
  };
}
