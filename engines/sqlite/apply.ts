import type Database from 'better-sqlite3';
import Sqlite from 'better-sqlite3';
import {
  type Applied,
  type ApplyAnswer,
  type ApplyRequest,
  type ApplyStep,
  type ApplyWork,
  applyPlan,
  type Settling,
} from '../../core/changes/index.js';
import { sqliteDialect } from '../../core/dialects/index.js';
import { drive } from '../driver.js';
import type { Telling } from '../telling.js';
import { introspect } from './introspect.js';

const NOTHING: ApplyAnswer = { rows: [], changed: 0, milliseconds: 0, schema: null };

/**
 * Carries a plan out in one transaction, which nobody else can write in meanwhile. Foreign keys are off in it, since with them a
 * table that is dropped would take along what points at it; all of them are looked at before the end
 * (https://www.sqlite.org/lang_altertable.html, “Making Other Kinds Of Table Schema Changes”).
 */
export function apply(
  db: Database.Database,
  request: ApplyRequest | Settling,
  running: (sql: string) => void,
  telling: Telling,
): Applied {
  // A transaction leaves nothing half done.
  if (typeof request === 'string') return { kind: 'nothing left' };
  const step = (asked: ApplyStep): ApplyAnswer => {
    switch (asked.kind) {
      case 'schema':
        return { ...NOTHING, schema: introspect(db).schema };
      case 'read':
        return { ...NOTHING, rows: readRows(db, asked.sql) };
      case 'progress':
        telling.progress({ kind: 'steps', ...asked.progress });
        return NOTHING;
      case 'together': {
        const [changed = 0] = asked.statements.map(({ sql, values }) => changedBy(db, sql, values));
        return { ...NOTHING, changed };
      }
      case 'define':
      case 'rows': {
        running(asked.sql);
        const started = performance.now();
        const changed = changedBy(db, asked.sql, asked.values);
        return { ...NOTHING, changed, milliseconds: performance.now() - started };
      }
    }
  };
  // What an index sorts grows with its table, and is to stand in no memory (https://www.sqlite.org/tempfiles.html, section 2.6).
  db.pragma('temp_store = file');
  db.pragma('foreign_keys = off');
  db.pragma('legacy_alter_table = on');
  db.exec('begin immediate');
  try {
    const applied = drive(applyPlan(sqliteDialect, request, dangling), step);
    db.exec(applied.kind === 'applied' ? 'commit' : 'rollback');
    return applied;
  } finally {
    if (db.inTransaction) db.exec('rollback');
    db.pragma('legacy_alter_table = off');
    db.pragma('foreign_keys = on');
    db.pragma('temp_store = memory');
  }
}

function changedBy(db: Database.Database, sql: string, values: readonly (string | number | null)[]): number {
  const statement = db.prepare(sql);
  if (!statement.reader) return statement.run(...values).changes;
  // A setting may answer with what it is now.
  statement.all(...values);
  return 0;
}

/**
 * How many rows of each table point at nothing. A key that leads to what is no key at all cannot be looked at, and is passed over:
 * it was like that before (https://www.sqlite.org/foreignkeys.html#fk_indexes, https://www.sqlite.org/pragma.html#pragma_foreign_key_check).
 */
function* dangling(): ApplyWork<ReadonlyMap<string, number>> {
  const { rows } = yield { kind: 'read', sql: "select name from pragma_table_list where schema = 'main' and type = 'table'" };
  const found = new Map<string, number>();
  for (const [name] of rows) {
    const table = String(name);
    const { rows: counted } = yield {
      kind: 'read',
      sql: `select count(*) from pragma_foreign_key_check('${table.replaceAll("'", "''")}')`,
    };
    const [[count] = []] = counted;
    if (count !== undefined && Number(count) > 0) found.set(table, Number(count));
  }
  return found;
}

/** The rows of a statement that looks at keys; none where a key cannot be looked at. */
function readRows(db: Database.Database, sql: string): unknown[][] {
  try {
    return db.prepare(sql).raw().all() as unknown[][];
  } catch (error) {
    if (error instanceof Sqlite.SqliteError && /foreign key mismatch/.test(error.message)) return [];
    throw error;
  }
}
