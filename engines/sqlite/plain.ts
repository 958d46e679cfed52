import type Database from 'better-sqlite3';
import type { ReadingStatement } from '../../core/sql/index.js';
import type { PlainLimits, PlainRows } from '../engine.js';
import { NotRead, PlainTable } from '../plain-rows.js';
import type { OpenMode } from '../protocol.js';
import { explain } from './explain.js';

/**
 * Runs one statement of a person's own on a file that is only looked at. The engine says of it that it writes nothing
 * (https://www.sqlite.org/c3ref/stmt_readonly.html) and gives rows; no file can be attached, and what never ends is ended with
 * this process.
 *
 * @throws NotRead where it does more than read
 */
export function readPlain(
  db: Database.Database,
  mode: OpenMode,
  { sql, explains }: ReadingStatement,
  most: PlainLimits,
): PlainRows {
  if (mode !== 'look') throw new NotRead('This file is being made, so that no statement of a person’s own is run on it.');
  const statement = db.prepare(sql);
  if (!statement.readonly || !statement.reader) throw new NotRead('Only what reads is run here, and the statement does more.');
  const started = performance.now();
  const table = new PlainTable(
    statement.columns().map(({ name }) => name),
    most,
  );
  for (const row of statement.raw().safeIntegers().iterate()) if (!table.take(row as unknown[])) break;
  const milliseconds = performance.now() - started;
  return { ...table.table, milliseconds, steps: explains ? [] : explain(db, sql) };
}
