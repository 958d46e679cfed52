import type Database from 'better-sqlite3';
import Sqlite from 'better-sqlite3';
import type { Insert, MakeReport, MakeRequest, RefusedRows } from '../engine.js';
import { MADE_HERE } from './mark.js';

/**
 * Makes a schema and its rows in one transaction. Foreign keys are looked at when all rows are in, since tables may
 * point at each other; rows that another constraint refuses are left out and counted.
 */
export function make(db: Database.Database, request: MakeRequest, running: (sql: string) => void): MakeReport {
  const rows: Record<string, number> = {};
  const refused = new Map<string, { table: string; constraint: string; rows: number }>();
  const refuse: Refuse = (table, constraint, count = 1) => {
    const key = `${table}\n${constraint}`;
    const known = refused.get(key);
    if (known === undefined) refused.set(key, { table, constraint, rows: count });
    else known.rows += count;
  };
  db.pragma(`application_id = ${request.marked ? MADE_HERE : 0}`);
  db.transaction(() => {
    db.pragma('defer_foreign_keys = on');
    for (const statement of [...request.before, ...request.after]) {
      running(statement);
      // One statement, whatever the text made of it: the driver refuses a second behind it.
      db.prepare(statement).run();
    }
    for (const insert of request.inserts) {
      running(insert.into);
      const done = putIn(db, insert, refuse);
      rows[insert.table] = (rows[insert.table] ?? 0) + done;
    }
    removeDangling(db, rows, refuse);
  })();
  const report: RefusedRows[] = Array.from(refused.values());
  return { rows, refused: report };
}

type Refuse = (table: string, constraint: string, count?: number) => void;

/** Puts in the rows of one table; gives how many went in. */
function putIn(db: Database.Database, insert: Insert, refuse: Refuse): number {
  let done = 0;
  let prepared: Database.Statement | null = null;
  for (const [index, values] of insert.rows.entries()) {
    try {
      prepared ??= db.prepare(`${insert.into} (${Array(insert.columns).fill('?').join(', ')})`);
      prepared.run(...values);
      done += 1;
    } catch (error) {
      if (!(error instanceof Sqlite.SqliteError)) throw error;
      if (error.code.startsWith('SQLITE_CONSTRAINT')) refuse(insert.table, constraintIn(error.message));
      else if (error.code === 'SQLITE_ERROR') {
        // A key that points at a table which is not there, or a trigger that calls what is not, refuses every row.
        refuse(insert.table, error.message, insert.rows.length - index);
        return done;
      } else throw error;
    }
  }
  return done;
}

function constraintIn(message: string): string {
  return /constraint failed: (.*)$/.exec(message)?.[1] ?? message;
}

/** Rows that point at a row that was refused go too, until none is left. */
function removeDangling(db: Database.Database, rows: Record<string, number>, refuse: Refuse): void {
  for (;;) {
    const dangling = db.pragma('foreign_key_check') as { table: string; rowid: number | null; parent: string }[];
    const found = dangling.filter((row) => row.rowid !== null);
    if (found.length === 0) return;
    for (const { table, rowid, parent } of found) {
      const gone = db.prepare(`delete from "${table.replaceAll('"', '""')}" where rowid = ?`).run(rowid).changes;
      if (gone === 0) continue;
      rows[table] = (rows[table] ?? gone) - gone;
      refuse(table, `a key that points at a row of ${parent} that is not there`);
    }
  }
}
