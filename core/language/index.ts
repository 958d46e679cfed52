/** The language service of an editor: completions, the meaning of a name, its declaration and its uses. */
export {
  type Completion,
  type Completions,
  complete,
  completeCondition,
  completeOrder,
  completeQuery,
} from './complete/index.js';
export { hover } from './hover.js';
export { definitionOf, nameAt, sameThing, usesOf } from './names.js';
export { type Use, usedBy, usedByInWords } from './used-by.js';
