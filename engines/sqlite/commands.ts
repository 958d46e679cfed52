import type Database from 'better-sqlite3';
import { sqliteDialect } from '../../core/dialects/index.js';
import type { Statement, StatementResult } from '../../core/load/index.js';
import {
  type Carried,
  type CommandAnswer,
  type CommandWork,
  carryOut,
  type TakenBack,
  takeBack,
} from '../../core/write/index.js';
import { drive } from '../driver.js';
import type { CommandsRequest, TakeBackRequest } from '../engine.js';
import { writer } from './writing.js';

/** How a database in this process is written to. */
export interface Writing {
  readonly db: Database.Database;
  /** Is told what is at work. */
  running(sql: string): void;
  execute(statement: Statement): StatementResult;
}

/** Carries out commands; what is not to stay is taken back. */
export function carryOutCommands(writing: Writing, request: CommandsRequest): Carried {
  const { keep } = request.inputs;
  return inTransaction(writing, carryOut(sqliteDialect, request), ({ refusal }) => keep && refusal === null);
}

/** Puts rows back as they were, all of them or none. */
export function takeBackCommands(writing: Writing, { undo, graph }: TakeBackRequest): TakenBack {
  return inTransaction(writing, takeBack(sqliteDialect, undo, graph), ({ ok }) => ok);
}

/**
 * Does work in one transaction, which nobody else can write in meanwhile.
 * https://www.sqlite.org/lang_transaction.html (immediate)
 *
 * @param stays whether what was done is to stay
 */
function inTransaction<Result>(
  { db, running, execute }: Writing,
  work: CommandWork<Result>,
  stays: (result: Result) => boolean,
): Result {
  const write = writer(db, running);
  db.exec('begin immediate');
  try {
    const result = drive(work, (step): CommandAnswer => {
      if (step.kind === 'ask') return { kind: 'asked', result: execute(step.statement) };
      const started = performance.now();
      const written = write(step);
      return { kind: 'written', result: written, milliseconds: performance.now() - started };
    });
    db.exec(stays(result) ? 'commit' : 'rollback');
    return result;
  } catch (error) {
    if (db.inTransaction) db.exec('rollback');
    throw error;
  }
}
