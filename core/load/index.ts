/** Woven plan → Statements; rows → trees. One file for each way to load. */
export { type Cut, keyList, type LoadAnswer, type LoadRequest, loadByBatch, type Row } from './batch.js';
export { type Bound, bind, type RunInputs } from './bindings.js';
export type { FetchOptions } from './by-columns.js';
export type { Computation, LogEntry, Statement, StatementResult } from './statement.js';
