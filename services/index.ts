/** The use cases, for the server and the command line alike. */
export { type BroughtIn, bringIn, titleOf } from './bring-in.js';
export { nowOf } from './clock.js';
export { type MadeDatabase, makeDatabase } from './make-database.js';
export { type RowChoice, rowChoices } from './row-choices.js';
export { type RunAnswer, type RunOutcome, type RunRequest, runQuery } from './run-query.js';
