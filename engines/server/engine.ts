import { askingEngine } from '../asking.js';
import type { CallOptions, Engine, Outcome } from '../engine.js';
import { fileProblemOf } from '../lines-in.js';
import type { Ask } from '../protocol.js';
import type { Telling } from '../telling.js';
import { answer, type ServerKind } from './answer.js';
import type { Lease, Pool } from './pool.js';

/** How long a server is given to hear that a statement is to end. */
const GRACE = 2000;

export interface ServerOptions {
  /** What a person calls this database, in messages. */
  readonly label: string;
  /** How long one call may take. */
  readonly milliseconds: number;
}

/**
 * A database on a server. A call past its limit is ended on the server, not only forgotten here; its connection is not
 * used again.
 */
export function openServer(kind: ServerKind, pool: Pool, { label, milliseconds }: ServerOptions): Engine {
  let closed: Promise<void> | null = null;

  const call = <T>(ask: Ask, { signal, progress }: CallOptions = {}): Promise<Outcome<T>> => {
    if (closed !== null) return Promise.resolve({ ok: false, problem: { code: 'ended', message: 'This database is closed.' } });
    const stopped: Outcome<never> = { ok: false, problem: { code: 'ended', message: 'Stopped.' } };
    if (signal?.aborted === true) return Promise.resolve(stopped);
    return new Promise((resolve) => {
      const aborted = () => void end(running, stopped);
      signal?.addEventListener('abort', aborted, { once: true });
      const running: Running = { taken: null, sql: null, ended: null, tell: resolve };
      const timer = setTimeout(() => {
        const seconds = Math.round(milliseconds / 100) / 10;
        const what = running.sql === null ? '' : `, while this ran:\n${running.sql}`;
        void end(running, { ok: false, problem: { code: 'timeout', message: `Stopped after ${seconds} s${what}` } });
      }, milliseconds);
      const telling: Telling = {
        progress: (done) => {
          timer.refresh();
          progress?.(done);
        },
        isStopped: () => running.ended !== null,
      };
      void work<T>(ask, running, telling).then((outcome) => {
        clearTimeout(timer);
        signal?.removeEventListener('abort', aborted);
        giveBack(running, running.ended !== null);
        resolve(running.ended ?? outcome);
      });
    });
  };

  const work = async <T>(ask: Ask, running: Running, telling: Telling): Promise<Outcome<T>> => {
    try {
      const taken = await pool.acquire();
      running.taken = taken;
      if (running.ended !== null) return running.ended;
      const note = (sql: string) => {
        running.sql = sql;
      };
      return { ok: true, value: (await answer(kind, taken, ask, note, telling)) as T };
    } catch (error) {
      if (running.ended !== null) return running.ended;
      const problem = fileProblemOf(error) ?? kind.problemOf(error, label);
      if (problem.code === 'unreachable') giveBack(running, true);
      const stopped = problem.code === 'timeout' && running.sql !== null;
      return { ok: false, problem: stopped ? { ...problem, message: `${problem.message} It was:\n${running.sql}` } : problem };
    }
  };

  /** Ends a call on the server; where that cannot be told, with its connection. Whoever asked waits no longer. */
  const end = async (running: Running, outcome: Outcome<never>): Promise<void> => {
    running.ended = outcome;
    const cancelled = running.taken?.cancel().catch(() => null);
    await Promise.race([cancelled, new Promise((done) => setTimeout(done, GRACE).unref())]);
    giveBack(running, true);
    running.tell(outcome);
  };

  return askingEngine(kind.dialect, call, () => {
    closed ??= pool.close();
    return closed;
  });
}

/** A call that is under way. */
interface Running {
  taken: Lease | null;
  sql: string | null;
  ended: Outcome<never> | null;
  tell(outcome: Outcome<never>): void;
}

function giveBack(running: Running, broken: boolean): void {
  const { taken } = running;
  running.taken = null;
  taken?.release(broken);
}
