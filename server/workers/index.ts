/** Processes that compute what would hold the server up. */

export type { DatabaseAccess } from './database-access.js';
export type { DatabaseMeant } from './design-database.js';
export { type LiveAsk, LiveWork } from './live.js';
export type { FoundFile, LinesWish, LinesWritten, RowsOut, RowsOutWish, SentFile } from './row-files.js';
export { Texts } from './texts.js';
export type { ApplyOutcome, ApplyWish, ChangesOf, LetGoWish, NewFile, PlanWish, SettleWish, Stands } from './tree-changes.js';
export type { OpenDatabase } from './tree-database.js';
export { type AskOptions, Worker, WorkLost } from './worker.js';
