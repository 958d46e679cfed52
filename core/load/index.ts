/** Woven plan → Statements; rows → trees. One file for each way to load. */
export { type Cut, type LoadAnswer, type LoadRequest, loadByBatch, type Row } from './batch.js';
export { type Bound, bind, type RunInputs } from './bindings.js';
export { type Fetched, type FetchRequest, fetch } from './fetch.js';
export type { Computation, FetchOptions, LogEntry, Statement, StatementResult } from './statement.js';
