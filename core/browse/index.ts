/** Looking through an entity's rows: which rows and in what order, a window of them, and how many each is related to. */
export { type BrowseRequest, type Browsing, browse, countsByRole, isRow, keyOutputs, type Via, walkable } from './browse.js';
export { SHOWN, shownEntity } from './shown.js';
