import type Database from 'better-sqlite3';
import Sqlite from 'better-sqlite3';
import type { MakeReport, MakeRequest, RefusedRows } from '../engine.js';

/**
 * Makes a schema and its rows in one transaction. Foreign keys are looked at when all rows are in, since tables may
 * point at each other; rows that another constraint refuses are left out and counted.
 */
export function make(db: Database.Database, request: MakeRequest, running: (sql: string) => void): MakeReport {
  const rows: Record<string, number> = {};
  const refused = new Map<string, { table: string; constraint: string; rows: number }>();
  const refuse = (table: string, constraint: string) => {
    const key = `${table}\n${constraint}`;
    const known = refused.get(key);
    if (known === undefined) refused.set(key, { table, constraint, rows: 1 });
    else known.rows += 1;
  };
  db.transaction(() => {
    db.pragma('defer_foreign_keys = on');
    for (const statement of request.statements) {
      running(statement);
      db.exec(statement);
    }
    for (const insert of request.inserts) {
      running(insert.sql);
      const prepared = db.prepare(insert.sql);
      let done = 0;
      for (const values of insert.rows) {
        try {
          prepared.run(...values);
          done += 1;
        } catch (error) {
          if (!(error instanceof Sqlite.SqliteError) || !error.code.startsWith('SQLITE_CONSTRAINT')) throw error;
          refuse(insert.table, constraintIn(error.message));
        }
      }
      rows[insert.table] = (rows[insert.table] ?? 0) + done;
    }
    removeDangling(db, rows, refuse);
  })();
  const report: RefusedRows[] = Array.from(refused.values());
  return { rows, refused: report };
}

function constraintIn(message: string): string {
  return /constraint failed: (.*)$/.exec(message)?.[1] ?? message;
}

/** Rows that point at a row that was refused go too, until none is left. */
function removeDangling(
  db: Database.Database,
  rows: Record<string, number>,
  refuse: (table: string, constraint: string) => void,
): void {
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
