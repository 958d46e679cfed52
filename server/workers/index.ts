/** Processes that compute what would hold the server up. */
export { Texts } from './texts.js';
export type { DatabaseAccess } from './tree-database.js';
export { Worker, WorkLost } from './worker.js';
