/** What an editor asks of a text: what fits here, what a name means, where it is declared and used. */
export {
  type Completion,
  type Completions,
  complete,
  completeCondition,
  completeOrder,
  completeQuery,
} from './complete/index.js';
export { definitionOf, hover, nameAt, sameThing, usesOf } from './names.js';
