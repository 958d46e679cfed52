import type Database from 'better-sqlite3';
import Sqlite from 'better-sqlite3';
import type { EachResult, EachStep } from '../../core/write/index.js';
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
  return ({ kind, sql, values, gives }) => {
    if (kind === 'mark') {
      db.exec(sql);
      return NOTHING;
    }
    if (kind === 'read')
      return {
        ...NOTHING,
        rows: db
          .prepare(sql)
          // A key may be larger than a double holds.
          .safeIntegers()
          .raw()
          .all(...values) as unknown[][],
      };
    try {
      if (gives === 'rows')
        return {
          ...NOTHING,
          rows: prepared(sql)
            .safeIntegers()
            .raw()
            .all(...values) as unknown[][],
        };
      return { ...NOTHING, changed: prepared(sql).run(...values).changes };
    } catch (error) {
      const refusal = kind === 'attempt' ? refusalIn(error) : null;
      if (refusal === null) throw error;
      return { ...NOTHING, refusal };
    }
  };
}

/** Carries out one change with other values many times over. */
export function writeEach(db: Database.Database, { sql, values, gives }: EachStep, running: (sql: string) => void): EachResult {
  running(sql);
  const refusals = new Map<number, Refusal>();
  const rows = new Map<number, readonly unknown[]>();
  const statement = gives === 'rows' ? db.prepare(sql).safeIntegers().raw() : db.prepare(sql);
  for (let at = 0; at < values.length; at++) {
    try {
      if (gives === 'rows') rows.set(at, statement.get(values[at]) as unknown[]);
      else statement.run(values[at]);
    } catch (error) {
      const refusal = refusalIn(error);
      if (refusal === null) throw error;
      refusals.set(at, refusal);
    }
  }
  return { refusals, rows };
}

/** What broke, by the end of the engine's code for it (https://www.sqlite.org/rescode.html#constraint). */
const KINDS: Readonly<Record<string, Refusal['kind']>> = {
  UNIQUE: 'unique',
  PRIMARYKEY: 'unique',
  ROWID: 'unique',
  NOTNULL: 'required',
  CHECK: 'check',
  FOREIGNKEY: 'key',
};

/** Why a row was refused; null for an error that is none of a row. */
function refusalIn(error: unknown): Refusal | null {
  if (!(error instanceof Sqlite.SqliteError)) return null;
  const { code, message } = error;
  if (code.startsWith('SQLITE_CONSTRAINT')) {
    // Rules that restrict are carried out by triggers of its own.
    const byKey = code === 'SQLITE_CONSTRAINT_TRIGGER' && message === 'FOREIGN KEY constraint failed';
    const kind = byKey ? 'key' : (KINDS[code.replace('SQLITE_CONSTRAINT_', '')] ?? 'other');
    const constraint = /constraint failed: (.*)$/.exec(message)?.[1] ?? message;
    // Of these it names no constraint, but each column behind its table.
    const names = kind === 'unique' || kind === 'required' ? constraint.split(', ') : [];
    const columns = names.map((name) => name.slice(name.indexOf('.') + 1));
    return { kind, constraint, columns, whateverRow: false };
  }
  // A key that points at a table which is not there, or a trigger that calls what is not.
  return code === 'SQLITE_ERROR' ? { kind: 'other', constraint: message, columns: [], whateverRow: true } : null;
}
