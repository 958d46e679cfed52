/** Databases to run on: one adapter for each engine, all behind one interface. */

export { type Address, type DatabasePlace, type ReadAddress, readAddress, writeAddress } from './address.js';
export { drive, driveLater } from './driver.js';
export type * from './engine.js';
export { lockFolder } from './lock.js';
export { openMariadb } from './mariadb/engine.js';
export { type Embedded, type EmbeddedOptions, openEmbedded } from './postgres/embedded/engine.js';
export { openPostgres } from './postgres/engine.js';
export { programFile } from './program-file.js';
export { type FileHead, headOf, textLines, UnreadableFile } from './row-file.js';
export type { ServerAccess } from './server/access.js';
export type { Surroundings } from './server/row.js';
export { SCRATCH_PREFIX, type Scratch, type ScratchName } from './server/scratch.js';
export { openSqlite, type SqliteOptions } from './sqlite/engine.js';
export { type PlaceToLook, placeToLook } from './sqlite/place-to-look.js';
export {
  embeddedEngine,
  fileEngine,
  lookAround,
  makeEmptyAt,
  openAt,
  openScratch,
  powersOf,
  scriptsRunIn,
  titleOfServer,
  type Workshop,
} from './table.js';
