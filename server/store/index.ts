/** What the program keeps for itself. */
export { inUseOf, partOf } from './in-use.js';
export { type RevisionSource, type SaveOutcome, Store, type StoredRevision, type StoredTree } from './store.js';
