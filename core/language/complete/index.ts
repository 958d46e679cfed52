/** Completions at the cursor: one file for each kind of line. */
export { type Completions, complete, completeCondition, completeOrder, completeQuery } from './complete.js';
export type { Completion } from './options.js';
