import type Database from 'better-sqlite3';

/** As many statements as are kept ready: an application asks the same few again and again. */
const MOST = 100;

const kept = new WeakMap<Database.Database, Map<string, Database.Statement>>();

/** A statement ready to be run. It is made once; the engine makes it anew itself where the schema has changed since. */
export function statementOf(database: Database.Database, sql: string): Database.Statement {
  const statements = kept.get(database) ?? new Map<string, Database.Statement>();
  kept.set(database, statements);
  const known = statements.get(sql);
  const statement = known ?? database.prepare(sql);
  // The one that was used last stands last, so that those which nobody uses go first.
  statements.delete(sql);
  statements.set(sql, statement);
  for (const oldest of statements.keys()) {
    if (statements.size <= MOST) break;
    statements.delete(oldest);
  }
  return statement;
}
