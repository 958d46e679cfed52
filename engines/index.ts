/** Databases to run on: one adapter for each engine, all behind one interface. */
export { drive } from './driver.js';
export type * from './engine.js';
export { openSqlite, type SqliteOptions } from './sqlite/engine.js';
