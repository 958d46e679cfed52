import type { Dialect } from '../../core/dialects/index.js';
import type { Statement, StatementResult } from '../../core/load/index.js';
import { type Carried, type CommandAnswer, carryOut } from '../../core/write/index.js';
import { driveLater } from '../driver.js';
import type { CommandsRequest } from '../engine.js';
import type { Connection } from './connection.js';
import type { Running } from './running.js';
import { WriteTransaction, type WritingKind } from './writing.js';

/** What of a kind of server it takes to write on it. */
export interface WritingServer {
  readonly dialect: Dialect;
  readonly writing: WritingKind;
}

/** Carries out commands in one transaction; what is not to stay is taken back. */
export async function carryOutCommands(
  { dialect, writing }: WritingServer,
  connection: Connection,
  request: CommandsRequest,
  running: Running,
  execute: (statement: Statement) => Promise<StatementResult>,
): Promise<Carried> {
  const transaction = new WriteTransaction(writing, connection, running);
  try {
    await transaction.begin();
    const carried = await driveLater(carryOut(dialect, request), async (step): Promise<CommandAnswer> => {
      if (step.kind === 'ask') return { kind: 'asked', result: await execute(step.statement) };
      const started = performance.now();
      const result = await transaction.run(step);
      return { kind: 'written', result, milliseconds: performance.now() - started };
    });
    if (request.inputs.keep && carried.refusal === null) await transaction.commit();
    else await transaction.rollback();
    return carried;
  } catch (error) {
    await transaction.rollback();
    throw error;
  }
}
