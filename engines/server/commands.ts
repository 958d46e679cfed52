import type { Dialect } from '../../core/dialects/index.js';
import type { Statement, StatementResult } from '../../core/load/index.js';
import {
  type Carried,
  type CommandAnswer,
  type CommandWork,
  carryOut,
  type TakenBack,
  takeBack,
} from '../../core/write/index.js';
import { driveLater } from '../driver.js';
import type { CommandsRequest, TakeBackRequest } from '../engine.js';
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
export function carryOutCommands(writing: Writing, request: CommandsRequest): Promise<Carried> {
  const { keep } = request.inputs;
  return inTransaction(writing, carryOut(writing.dialect, request), ({ refusal }) => keep && refusal === null);
}

/** Puts rows back as they were, all of them or none. */
export function takeBackCommands(writing: Writing, { undo, graph }: TakeBackRequest): Promise<TakenBack> {
  return inTransaction(writing, takeBack(writing.dialect, undo, graph), ({ ok }) => ok);
}

/** Does work in one transaction. @param stays whether what was done is to stay */
async function inTransaction<Result>(
  { writing, connection, running, execute }: Writing,
  work: CommandWork<Result>,
  stays: (result: Result) => boolean,
): Promise<Result> {
  const transaction = new WriteTransaction(writing, connection, running);
  try {
    await transaction.begin();
    const result = await driveLater(work, async (step): Promise<CommandAnswer> => {
      if (step.kind === 'ask') return { kind: 'asked', result: await execute(step.statement) };
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
