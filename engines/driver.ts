import type { Computation, Statement, StatementResult } from '../core/load/index.js';

/** The same where statements are answered later, as over a network. */
export async function driveLater<Result>(
  computation: Computation<Result>,
  execute: (statement: Statement) => Promise<StatementResult>,
): Promise<Result> {
  let step = computation.next();
  while (step.done !== true) step = computation.next(await execute(step.value));
  return step.value;
}

/**
 * Runs a computation of core to its end: each statement that it yields is executed, and it is resumed with the rows.
 * `execute` is synchronous, as inside an engine's own process.
 */
export function drive<Result>(computation: Computation<Result>, execute: (statement: Statement) => StatementResult): Result {
  let step = computation.next();
  while (step.done !== true) step = computation.next(execute(step.value));
  return step.value;
}
