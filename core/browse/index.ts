/** Looking through an entity's rows: which rows and in what order, a window of them, and how many each is related to. */
export {
  type BrowseRequest,
  type Browsing,
  browse,
  choicesOf,
  countOf,
  countsByRole,
  isRow,
  type Via,
  walkable,
} from './browse.js';
