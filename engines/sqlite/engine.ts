import { type ChildProcess, fork } from 'node:child_process';
import { basename } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { LoadRequest } from '../../core/load/index.js';
import type { BoundValue } from '../../core/values/index.js';
import type { Engine, Introspection, LoadedText, MakeReport, MakeRequest, Outcome, ScriptReport } from '../engine.js';
import type { Ask, ChildMessage, OpenMode } from './protocol.js';

export interface SqliteOptions {
  readonly path: string;
  readonly mode: OpenMode;
  /** What a person calls this database, in messages; the file's name where none is given. */
  readonly label?: string;
  /** How long one call may take. */
  readonly milliseconds: number;
}

interface Waiting {
  readonly process: ChildProcess;
  readonly resolve: (outcome: Outcome<unknown>) => void;
  readonly timer: NodeJS.Timeout;
  running: string | null;
}

const OWN_FILE = fileURLToPath(import.meta.url);
const CHILD_FILE = fileURLToPath(new URL(OWN_FILE.endsWith('.ts') ? './child.ts' : './child.js', import.meta.url));
const MOST_MEMORY_MB = 2048;

/**
 * A SQLite database in a child process. better-sqlite3 cannot be interrupted, so a call past its limit ends the
 * process; the file stays sound, and the next call starts another.
 */
export function openSqlite(options: SqliteOptions): Engine {
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
    const started = fork(CHILD_FILE, [options.path, options.mode, options.label ?? basename(options.path)], {
      serialization: 'advanced',
      execArgv: [`--max-old-space-size=${MOST_MEMORY_MB}`, ...(CHILD_FILE.endsWith('.ts') ? ['--import', 'tsx'] : [])],
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

  const call = <T>(ask: Ask): Promise<Outcome<T>> =>
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
        const seconds = Math.round(options.milliseconds / 100) / 10;
        settle(id, {
          ok: false,
          problem: {
            code: 'timeout',
            message: `Stopped after ${seconds} s${running === null || running === undefined ? '' : `, while this ran:\n${running}`}`,
          },
        });
        asked.kill('SIGKILL');
        if (child === asked) child = null;
      }, options.milliseconds);
      waiting.set(id, { process: asked, resolve: resolve as (outcome: Outcome<unknown>) => void, timer, running: null });
      asked.send({ id, ask });
    });

  return {
    load: (request: LoadRequest) => call<LoadedText>({ kind: 'load', request }),
    introspect: () => call<Introspection>({ kind: 'introspect' }),
    runScript: (path: string) => call<ScriptReport>({ kind: 'script', path }),
    make: (request: MakeRequest) => call<MakeReport>({ kind: 'make', request }),
    read: (sql: string, parameters: Readonly<Record<string, BoundValue>>) =>
      call<readonly (readonly unknown[])[]>({ kind: 'read', sql, parameters }),
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
