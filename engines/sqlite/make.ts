import type Database from 'better-sqlite3';
import { sqliteDialect } from '../../core/dialects/index.js';
import { drive } from '../driver.js';
import type { MakeReport, MakeRequest } from '../engine.js';
import { type MakingTally, type MakingTraits, making } from '../making.js';
import type { WriteWork } from '../writing.js';
import { MADE_HERE } from './mark.js';
import { writer } from './writing.js';

const TRAITS: MakingTraits = {
  dialect: sqliteDialect,
  // One statement, prepared once, costs no more for each row than for many.
  rowsAtOnce: () => 1,
  looksAtEach: true,
  holdKeys: (_keys, made) => removingDangling(made),
};

/**
 * Makes a schema and its rows in one transaction. Foreign keys are looked at when all rows are in, since tables may
 * point at each other; rows that another constraint refuses are left out and counted.
 */
export function make(db: Database.Database, request: MakeRequest, running: (sql: string) => void): MakeReport {
  db.pragma(`application_id = ${request.marked ? MADE_HERE : 0}`);
  return db.transaction(() => {
    db.pragma('defer_foreign_keys = on');
    return drive(making(request, TRAITS), writer(db, running));
  })();
}

/**
 * Rows that point at a row that was refused go too, until none is left.
 * https://www.sqlite.org/pragma.html#pragma_foreign_key_check
 */
function* removingDangling(made: MakingTally): WriteWork<void> {
  for (;;) {
    const { rows } = yield { kind: 'read', sql: 'pragma foreign_key_check', values: [] };
    const found = rows.filter(([, rowid]) => rowid !== null);
    if (found.length === 0) return;
    for (const [table, rowid, parent] of found) {
      const name = String(table);
      const where = { kind: 'binary', operator: '=', left: ROWID, right: { kind: 'placeholder', number: 1 } } as const;
      const sql = sqliteDialect.printChange({ kind: 'delete', from: { schema: null, name }, where });
      const { changed } = yield { kind: 'write', sql, values: [Number(rowid)] };
      if (changed > 0) made.takeOut(name, String(parent), changed);
    }
  }
}

const ROWID = { kind: 'column', source: null, column: 'rowid' } as const;
