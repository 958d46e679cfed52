/** Sample rows: those a text names, and generated ones that satisfy the model. */
export { polymorphicCells } from './entity-rows.js';
export { type Computed, evaluate } from './evaluate.js';
export type { MadeColumn, MadeRow, MadeTable, Samples, Unsatisfied } from './made.js';
export { namedKeys } from './named-keys.js';
export { heldBy, pivotColumns, placeRows, storedBeside } from './placed.js';

export { makeSamples, ROWS_BY_DEFAULT, samplesInSteps } from './samples.js';
