/** Syntax → Model: names resolved, conventions filled in and marked, every part with its place in the text. */
export { isDeclared } from './declared.js';
export {
  type Expression,
  type ExpressionType,
  type FunctionName,
  type Hop,
  operandsOf,
  type Quantifier,
  someExpression,
} from './expression.js';
export { describeType } from './expressions.js';
export * from './model.js';
export { capitalCase, generatedName, hash, plural, singular, snakeCase } from './names.js';
export type { NamedThing, Reference } from './references.js';
export { requiredLoops } from './required-loops.js';
export { type Resolved, resolve } from './resolve.js';
export { MOST_SAMPLE_ROWS } from './samples.js';
