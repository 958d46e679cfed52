import type Database from 'better-sqlite3';
import { sqliteDialect } from '../../core/dialects/index.js';
import type { Statement, StatementResult } from '../../core/load/index.js';
import { type Carried, type CommandAnswer, carryOut } from '../../core/write/index.js';
import { drive } from '../driver.js';
import type { CommandsRequest } from '../engine.js';
import { writer } from './writing.js';

/**
 * Carries out commands in one transaction, which nobody else can write in meanwhile; what is not to stay is taken back.
 * https://www.sqlite.org/lang_transaction.html (immediate)
 */
export function carryOutCommands(
  db: Database.Database,
  request: CommandsRequest,
  running: (sql: string) => void,
  execute: (statement: Statement) => StatementResult,
): Carried {
  const write = writer(db, running);
  db.exec('begin immediate');
  try {
    const carried = drive(carryOut(sqliteDialect, request), (step): CommandAnswer => {
      if (step.kind === 'ask') return { kind: 'asked', result: execute(step.statement) };
      const started = performance.now();
      const result = write(step);
      return { kind: 'written', result, milliseconds: performance.now() - started };
    });
    db.exec(request.inputs.keep && carried.refusal === null ? 'commit' : 'rollback');
    return carried;
  } catch (error) {
    if (db.inTransaction) db.exec('rollback');
    throw error;
  }
}
