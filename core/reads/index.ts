/** What a page reads of a query's rows, held against what the query loads. */
export { type Held, heldAgainst, loadLines, type UnloadedPath, type WideLoad, withLines, withLoaded } from './held.js';
