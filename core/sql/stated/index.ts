/** Reading SQL that a text states: what it is, whether it is more than one thing, and what it reaches. */
export { expressionFault, typeFault } from './expression.js';
export { type StatedToken, statedTokens } from './lexer.js';
export { qualifiersIn, reachesOf } from './reaches.js';
export { type ReadingStatement, readingStatement } from './reading.js';
export { type ReadStated, readStated, type StatedForm } from './statement.js';
