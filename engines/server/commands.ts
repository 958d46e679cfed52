import type { Dialect } from '../../core/dialects/index.js';
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
import { driveLater } from '../driver.js';
import type { CommandsRequest, LinesReport, LinesRequest, TakeBackRequest } from '../engine.js';
import { linesIn } from '../lines-in.js';
import { NotRead } from '../plain-rows.js';
import type { Telling } from '../telling.js';
import type { Connection } from './connection.js';
import type { Running } from './running.js';
import { WriteTransaction, type WritingKind } from './writing.js';

/** What of a kind of server it takes to write on it. */
export interface WritingServer {
  readonly dialect: Dialect;
  readonly writing: WritingKind;
}

/** How a server is written to over one connection. */
export interface Writing extends WritingServer {
  readonly connection: Connection;
  readonly running: Running;
  execute(statement: Statement): Promise<StatementResult>;
}

/** Carries out commands; what is not to stay is taken back. */
export async function carryOutCommands(writing: Writing, request: CommandsRequest): Promise<Carried> {
  const { keep } = request.inputs;
  await mayTakeBack(writing, keep);
  return inTransaction(writing, carryOut(writing.dialect, request), ({ refusal }) => keep && refusal === null);
}

/** Puts the lines of a file in. */
export async function putLinesIn(writing: Writing, request: LinesRequest, telling: Telling): Promise<LinesReport> {
  await mayTakeBack(writing, request.inputs.keep);
  const work = (step: Step) => linesIn(writing.dialect, request, telling, (part) => driveLater(part, step));
  return withinTransaction(writing, work, ({ kept }) => kept);
}

/** That what is only tried can be taken back. @throws NotRead where a table keeps what is written to it */
async function mayTakeBack({ writing, connection }: Writing, keep: boolean): Promise<void> {
  const table = keep ? null : await writing.tableWithoutTransactions(connection);
  if (table !== null)
    throw new NotRead(
      `Nothing was tried: ${table} is kept without transactions, so that what is written there could not be taken back. Try it on a scratch database, or keep the table by an engine that has them.`,
    );
}

/** Puts rows back as they were, all of them or none. */
export function takeBackCommands(writing: Writing, { undo, graph }: TakeBackRequest): Promise<TakenBack> {
  return inTransaction(writing, takeBack(writing.dialect, undo, graph), ({ ok }) => ok);
}

/** Does work in one transaction. @param stays whether what was done is to stay */
function inTransaction<Result>(writing: Writing, work: CommandWork<Result>, stays: (result: Result) => boolean): Promise<Result> {
  return withinTransaction(writing, (step) => driveLater(work, step), stays);
}

/** Carries out a step of commands. */
type Step = (step: CommandStep) => Promise<CommandAnswer>;

async function withinTransaction<Result>(
  { writing, connection, running, execute }: Writing,
  work: (step: Step) => Promise<Result>,
  stays: (result: Result) => boolean,
): Promise<Result> {
  const transaction = new WriteTransaction(writing, connection, running);
  try {
    await transaction.begin();
    const result = await work(async (step) => {
      if (step.kind === 'ask') return { kind: 'asked', result: await execute(step.statement) };
      if (step.kind === 'attempt each') return { kind: 'written each', result: await transaction.runEach(step) };
      const started = performance.now();
      const written = await transaction.run(step);
      return { kind: 'written', result: written, milliseconds: performance.now() - started };
    });
    if (stays(result)) await transaction.commit();
    else await transaction.rollback();
    return result;
  } catch (error) {
    await transaction.rollback();
    throw error;
  }
}
