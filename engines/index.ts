/** Databases to run on: one adapter for each engine, all behind one interface. */

export { type Address, type Place, type ReadAddress, readAddress, writeAddress } from './address.js';
export { drive, driveLater } from './driver.js';
export type * from './engine.js';
export { lockFolder } from './lock.js';
export { openMariadb } from './mariadb/engine.js';
export { type Embedded, type EmbeddedOptions, openEmbedded } from './postgres/embedded/engine.js';
export { openPostgres } from './postgres/engine.js';
export type { ServerAccess } from './server/access.js';
export { openSqlite, type SqliteOptions } from './sqlite/engine.js';
export { MADE_HERE } from './sqlite/mark.js';
