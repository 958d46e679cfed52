/** The store: trees, revisions, preferences, agreements. */
export type { StoredAudit } from './audits.js';
export type { StoredDatabase } from './design-databases.js';
export { digestOf, digestWithPowers } from './digest.js';
export { isForWantOfRoom } from './full.js';
export { inUseOf, partOf, placeOfRows } from './in-use.js';
export type { KeptArrival } from './kept-arrival.js';
export { type OpenedStore, openStore } from './open.js';
export {
  type CarriedOutAt,
  type RevisionSource,
  type SaveOutcome,
  Store,
  type StoredCommands,
  type StoredRevision,
  type StoredTree,
  writtenAsTold,
} from './store.js';
