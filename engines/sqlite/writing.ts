import type Database from 'better-sqlite3';
import Sqlite from 'better-sqlite3';
import type { Refusal, WriteResult, WriteStep } from '../writing.js';

const NOTHING: WriteResult = { rows: [], changed: 0, refusal: null };

/**
 * Carries out statements of a transaction that writes. One that is refused leaves nothing behind there, so that an attempt needs
 * no savepoint (https://www.sqlite.org/lang_conflict.html: abort).
 *
 * @param running is told what is at work: each statement once, however many rows it is given one after the other
 */
export function writer(db: Database.Database, running: (sql: string) => void): (step: WriteStep) => WriteResult {
  let last: { readonly sql: string; readonly statement: Database.Statement } | null = null;
  const prepared = (sql: string): Database.Statement => {
    if (last?.sql === sql) return last.statement;
    running(sql);
    // One statement, whatever the text made of it: the driver refuses a second behind it.
    const statement = db.prepare(sql);
    last = { sql, statement };
    return statement;
  };
  return ({ kind, sql, values }) => {
    if (kind === 'read')
      return {
        ...NOTHING,
        rows: db
          .prepare(sql)
          .raw()
          .all(...values) as unknown[][],
      };
    try {
      return { ...NOTHING, changed: prepared(sql).run(...values).changes };
    } catch (error) {
      const refusal = kind === 'attempt' ? refusalIn(error) : null;
      if (refusal === null) throw error;
      return { ...NOTHING, refusal };
    }
  };
}

/** Why a row was refused; null for an error that is none of a row. */
function refusalIn(error: unknown): Refusal | null {
  if (!(error instanceof Sqlite.SqliteError)) return null;
  const { code, message } = error;
  if (code.startsWith('SQLITE_CONSTRAINT'))
    return { constraint: /constraint failed: (.*)$/.exec(message)?.[1] ?? message, whateverRow: false };
  // A key that points at a table which is not there, or a trigger that calls what is not.
  return code === 'SQLITE_ERROR' ? { constraint: message, whateverRow: true } : null;
}
