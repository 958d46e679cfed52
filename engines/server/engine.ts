import { askingEngine } from '../asking.js';
import type { Engine, Outcome } from '../engine.js';
import type { Ask } from '../protocol.js';
import { answer, type ServerKind } from './answer.js';
import type { Pool, Taken } from './pool.js';

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
  const busy = new Set<Running>();
  let closed: Promise<void> | null = null;

  const call = async <T>(ask: Ask): Promise<Outcome<T>> => {
    if (closed !== null) return { ok: false, problem: { code: 'ended', message: 'This database is closed.' } };
    const running: Running = { taken: null, sql: null, ended: null };
    busy.add(running);
    const timer = setTimeout(() => {
      const seconds = Math.round(milliseconds / 100) / 10;
      const what = running.sql === null ? '' : `, while this ran:\n${running.sql}`;
      end(running, { ok: false, problem: { code: 'timeout', message: `Stopped after ${seconds} s${what}` } });
    }, milliseconds);
    try {
      const taken = await pool.acquire();
      running.taken = taken;
      if (running.ended !== null) return running.ended;
      const value = (await answer(kind, taken, ask, (sql) => {
        running.sql = sql;
      })) as T;
      return running.ended ?? { ok: true, value };
    } catch (error) {
      if (running.ended !== null) return running.ended;
      const problem = kind.problemOf(error, label);
      if (problem.code === 'unreachable') running.taken = release(running.taken, true);
      const stopped = problem.code === 'timeout' && running.sql !== null;
      return { ok: false, problem: stopped ? { ...problem, message: `${problem.message} It was:\n${running.sql}` } : problem };
    } finally {
      clearTimeout(timer);
      busy.delete(running);
      release(running.taken, running.ended !== null);
    }
  };

  const end = (running: Running, outcome: Outcome<never>) => {
    running.ended = outcome;
    // What cannot be told to the server is ended with the connection.
    running.taken?.cancel().catch(() => null);
  };

  return {
    ...askingEngine(kind.dialect.name, call),
    stop: () => {
      for (const running of busy) end(running, { ok: false, problem: { code: 'ended', message: 'Stopped.' } });
    },
    close: () => {
      closed ??= pool.close();
      return closed;
    },
  };
}

/** A call that is under way. */
interface Running {
  taken: Taken | null;
  sql: string | null;
  ended: Outcome<never> | null;
}

function release(taken: Taken | null, broken: boolean): null {
  taken?.release(broken);
  return null;
}
