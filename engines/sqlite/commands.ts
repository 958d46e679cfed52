import type Database from 'better-sqlite3';
import { sqliteDialect } from '../../core/dialects/index.js';
import type { Statement, StatementResult } from '../../core/load/index.js';
import {
  type Carried,
  type CommandAnswer,
  type CommandStep,
  type CommandWork,
  carryOut,
  type TakenBack,
  takeBack,
} from '../../core/write/index.js';
import { drive } from '../driver.js';
import type { CommandsRequest, LinesReport, LinesRequest, TakeBackRequest } from '../engine.js';
import { linesIn } from '../lines-in.js';
import type { Telling } from '../telling.js';
import { writeEach, writer } from './writing.js';

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

/** Puts the lines of a file in. The transaction stays open while they are read; whoever asks waits for its end with the next question. */
export async function putLinesIn(
  { db, running, execute }: Writing,
  request: LinesRequest,
  telling: Telling,
): Promise<LinesReport> {
  const step = stepper({ db, running, execute });
  db.exec('begin immediate');
  try {
    const report = await linesIn(sqliteDialect, request, telling, (work) => drive(work, step));
    db.exec(report.kept ? 'commit' : 'rollback');
    return report;
  } catch (error) {
    if (db.inTransaction) db.exec('rollback');
    throw error;
  }
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
function inTransaction<Result>(writing: Writing, work: CommandWork<Result>, stays: (result: Result) => boolean): Result {
  const { db } = writing;
  const step = stepper(writing);
  db.exec('begin immediate');
  try {
    const result = drive(work, step);
    db.exec(stays(result) ? 'commit' : 'rollback');
    return result;
  } catch (error) {
    if (db.inTransaction) db.exec('rollback');
    throw error;
  }
}

/** Carries out a step of commands. */
function stepper({ db, running, execute }: Writing): (step: CommandStep) => CommandAnswer {
  const write = writer(db, running);
  return (step) => {
    if (step.kind === 'ask') return { kind: 'asked', result: execute(step.statement) };
    if (step.kind === 'attempt each') return { kind: 'written each', result: writeEach(db, step, running) };
    const started = performance.now();
    const written = write(step);
    return { kind: 'written', result: written, milliseconds: performance.now() - started };
  };
}
