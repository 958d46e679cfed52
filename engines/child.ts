import { type ChildProcess, fork } from 'node:child_process';
import type { Outcome, Problem } from './engine.js';
import type { Ask, AskMessage, ChildMessage } from './protocol.js';

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
  call<T>(ask: Ask, place: string | null, signal?: AbortSignal): Promise<Outcome<T>>;
  close(): Promise<void>;
}

/** How long a process that is asked to end is waited for. */
const GRACE = 3000;

interface Call {
  readonly message: AskMessage;
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
  const queue: Call[] = [];
  let child: ChildProcess | null = null;
  let running: Running | null = null;
  let next = 1;
  let closed = false;

  const failed = (code: Problem['code'], message: string): Outcome<never> => ({ ok: false, problem: { code, message } });

  /** Ends the call that is running with an outcome, and goes on with the next. */
  const finish = (outcome: Outcome<unknown>) => {
    if (running === null) return;
    clearTimeout(running.timer);
    const { call } = running;
    running = null;
    call.settle(outcome);
    goOn();
  };

  /** The process is of no use any more: whatever it was at has ended. */
  const lose = (lost: ChildProcess, why: string) => {
    if (child === lost) child = null;
    lost.kill('SIGKILL');
    if (running?.process === lost) finish(failed('ended', `The database’s process ${why}. Ask for less at once, or try again.`));
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
      if (running === null || running.process !== started || running.call.message.id !== message.id) return;
      if (message.kind === 'done') finish(message.outcome);
      else running.sql = message.sql;
    });
    // Not started for want of files or memory, or its channel broke.
    started.on('error', (error) => lose(started, `could not go on (${error.message})`));
    started.on('exit', () =>
      lose(started, /heap out of memory/.test(complaint) ? 'needed more memory than it may have' : 'ended before it answered'),
    );
    return started;
  };

  const goOn = () => {
    if (running !== null) return;
    const call = queue.shift();
    if (call === undefined) return;
    try {
      child ??= start();
    } catch (error) {
      const why = error instanceof Error ? error.message : String(error);
      call.settle(failed('ended', `The database’s process could not be started (${why}). Try again when there is room.`));
      goOn();
      return;
    }
    const asked = child;
    const timer = setTimeout(() => {
      const seconds = Math.round(options.milliseconds / 100) / 10;
      const sql = running?.sql ?? null;
      stop(failed('timeout', `Stopped after ${seconds} s${sql === null ? '' : `, while this ran:\n${sql}`}`));
    }, options.milliseconds);
    running = { call, process: asked, timer, sql: null };
    asked.send(call.message, (error) => {
      if (error !== null) lose(asked, `does not listen (${error.message})`);
    });
  };

  /** Ends the call that is running, and its process. */
  const stop = (outcome: Outcome<never>) => {
    if (running === null) return;
    const { process } = running;
    if (child === process) child = null;
    process.kill('SIGKILL');
    finish(outcome);
  };

  const call = <T>(ask: Ask, place: string | null, signal?: AbortSignal): Promise<Outcome<T>> =>
    new Promise((resolve) => {
      if (closed || signal?.aborted === true) {
        resolve(failed('ended', closed ? 'This database is closed.' : 'Stopped.'));
        return;
      }
      const aborted = () => {
        if (running?.call === own) stop(failed('ended', 'Stopped.'));
        else if (queue.includes(own)) {
          queue.splice(queue.indexOf(own), 1);
          own.settle(failed('ended', 'Stopped.'));
        }
      };
      const own: Call = {
        message: { id: next++, place, ask },
        settle: (outcome) => {
          signal?.removeEventListener('abort', aborted);
          resolve(outcome as Outcome<T>);
        },
      };
      signal?.addEventListener('abort', aborted, { once: true });
      queue.push(own);
      goOn();
    });

  return {
    call,
    close: async () => {
      closed = true;
      for (const waiting of queue.splice(0)) waiting.settle(failed('ended', 'This database is closed.'));
      const ending = child;
      if (ending === null || ending.exitCode !== null || ending.signalCode !== null) return;
      await new Promise<void>((resolve) => {
        const timer = setTimeout(() => ending.kill('SIGKILL'), GRACE);
        ending.once('exit', () => {
          clearTimeout(timer);
          resolve();
        });
        if (ending.connected) ending.disconnect();
        else ending.kill('SIGKILL');
      });
    },
  };
}
