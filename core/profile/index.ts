/** What the rows say about a relation: how many children a parent has, which parents have none, which keys point nowhere. */
export { bucketsOf, type Histogram } from './histogram.js';
export { type ProfileStatement, profileStatements } from './statements.js';
