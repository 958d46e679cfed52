import { mariadbStatements } from '../../core/sql/index.js';
import type { ScriptReport } from '../engine.js';
import type { Connection } from '../server/connection.js';
import type { Running } from '../server/running.js';
import { runStatements } from '../server/script.js';

/** Runs a script, statement by statement; tables may come before those that they point at. */
export async function runScript(connection: Connection, path: string, running: Running): Promise<ScriptReport> {
  await connection.query("set foreign_key_checks = 0, sql_mode = 'NO_ENGINE_SUBSTITUTION,NO_AUTO_VALUE_ON_ZERO'");
  const run = (sql: string) => connection.query(sql);
  const messageOf = (error: unknown) =>
    error instanceof Error && 'errno' in error && Number(error.errno) < 45_000
      ? ((error as Error & { sqlMessage?: string }).sqlMessage ?? error.message)
      : null;
  return runStatements(path, mariadbStatements, run, messageOf, running);
}
