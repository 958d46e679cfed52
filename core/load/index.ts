/** Woven plan → statements; rows → trees. One file for each way to load. */

export { type AnswerRow, type Cut, keyOfRow, type LoadAnswer, type LoadRequest } from './answer.js';
export type { RunInputs } from './bindings.js';
export {
  type Binding,
  type Compiled,
  type CompiledLoad,
  type CompiledRead,
  type CompileOptions,
  joinSelect,
  type Output,
} from './compile/index.js';
export { type Fetched, type FetchPurpose, type FetchRequest, fetch } from './fetch.js';
export { type Preparation, type Prepared, prepare, writtenSql } from './prepare.js';
export { type ReadBy, readBy } from './read-by.js';
export {
  type Computation,
  type Explained,
  type FetchOptions,
  type LogEntry,
  type PlanStep,
  planStep,
  type Refusal,
  type Statement,
  type StatementResult,
  TOTAL_PATH,
} from './statement.js';
export { loadRows } from './ways/index.js';
