/** The program's own database. */
export { type SaveOutcome, Store, type StoredTree } from './store.js';
