/** Syntax → Model: names resolved, conventions filled in and marked, every part with its place in the text. */

export type { ActorName } from './actors.js';
export type { Command, CommandRows, NamedCommand, NewRow, Through, WrittenValue } from './command.js';
export { isDeclared } from './declared.js';
export { describeType } from './describe-type.js';
export type { Expectation, ExpectedLine } from './expectation.js';
export {
  type Between,
  type Binary,
  type Call,
  type Case,
  type Constant,
  type Expression,
  type ExpressionOver,
  type ExpressionType,
  type FunctionName,
  type Hop,
  type Like,
  type Mark,
  type Membership,
  type Negation,
  type NullTest,
  type Order,
  operandsIn,
  operandsOf,
  type PartKind,
  type Quantifier,
  type Role,
  type RowPart,
  readsRow,
  rolesWalked,
  someExpression,
  type Way,
} from './expression.js';
export { expressionsOfCommand, expressionsOfQuery } from './expressions-of.js';
export { written } from './groups.js';
export { nameInList } from './lists.js';
export * from './model.js';
export { capitalCase, generatedName, hash, plural, singular, snakeCase } from './names.js';
export { loadOf, queryOf } from './plain-query.js';
export type { NamedThing, Reference } from './references.js';
export { requiredLoops } from './required-loops.js';
export { type Resolved, resolve } from './resolve.js';
export { MOST_SAMPLE_ROWS } from './samples.js';
export {
  type Holdings,
  holdingsOf,
  isMarked,
  isPivot,
  isPolymorphic,
  keyColumnsOf,
  keysOfTargets,
  type StoredKey,
  type StoredPlace,
  storedColumnsOf,
  storedColumnTypes,
  storedPlace,
  storedTypes,
} from './storage.js';
