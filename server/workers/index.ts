/** Processes that compute what would hold the server up. */
export type { FoundFile, LinesWish, LinesWritten, RowsOut, RowsOutWish, SentFile } from './row-files.js';
export { Texts } from './texts.js';
export type { DatabaseAccess } from './tree-database.js';
export { type AskOptions, Worker, WorkLost } from './worker.js';
