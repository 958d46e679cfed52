import { postgresStatements } from '../../core/sql/index.js';
import type { ScriptReport } from '../engine.js';
import type { Connection } from '../server/connection.js';
import type { Running } from '../server/running.js';
import { runStatements } from '../server/script.js';

/** Runs a script, statement by statement; functions are not looked into before all tables are there. */
export async function runScript(connection: Connection, path: string, running: Running): Promise<ScriptReport> {
  await connection.query('set check_function_bodies = off');
  const run = (sql: string) => connection.query(sql);
  const messageOf = (error: unknown) =>
    error instanceof Error && 'code' in error && /^[0-9A-Z]{5}$/.test(String(error.code)) ? error.message : null;
  return runStatements(path, postgresStatements, run, messageOf, running);
}
