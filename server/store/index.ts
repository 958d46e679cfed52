/** The program's own database. */
export { type RevisionSource, type SaveOutcome, Store, type StoredRevision, type StoredTree } from './store.js';
