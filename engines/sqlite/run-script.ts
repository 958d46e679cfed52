import { readFileSync } from 'node:fs';
import type Database from 'better-sqlite3';
import Sqlite from 'better-sqlite3';
import { statementsOf } from '../../core/sql/index.js';
import type { ScriptReport } from '../engine.js';
import { MOST_TOLD, shortened } from '../server/script.js';

/**
 * Runs a script into a new database, in one transaction. Statements that make nothing are passed over; one that fails is
 * told with its line, and the rest goes on.
 */
export function runScript(db: Database.Database, path: string, running: (sql: string) => void): ScriptReport {
  const script = readFileSync(path, 'utf8').replace(/^\ufeff/, '');
  const failed: { line: number; message: string; sql: string }[] = [];
  const refused: { line: number; sql: string }[] = [];
  const leftOut: { line: number; sql: string }[] = [];
  let made = 0;
  let failures = 0;
  // Tables may come before those that they point at.
  db.pragma('foreign_keys = off');
  db.exec('begin');
  for (const { sql, line, sort } of statementsOf(script)) {
    if (sort === 'refused') refused.push({ line, sql: shortened(sql) });
    if (sort === 'left out') leftOut.push({ line, sql: shortened(sql) });
    if (sort !== 'makes') continue;
    if (made % 500 === 0) running(shortened(sql));
    try {
      // One statement, whatever the script made of it: a second behind it would not be looked at here.
      const statement = db.prepare(sql);
      if (statement.reader) statement.all();
      else statement.run();
      made += 1;
    } catch (error) {
      failures += 1;
      if (failed.length < MOST_TOLD)
        failed.push({ line, message: error instanceof Error ? error.message : String(error), sql: shortened(sql) });
      // Some errors end the transaction; what was made before is gone then, and the rest would be half of something. One
      // that has no room left makes no more.
      if (!db.inTransaction || (error instanceof Sqlite.SqliteError && error.code === 'SQLITE_FULL')) throw error;
    }
  }
  db.exec('commit');
  return { made, failures, failed, refused, leftOut };
}
