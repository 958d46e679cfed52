/** An existing database's Schema → a text in the kin notation that a person would have written. */

export { chosenTables, patternsIn } from './chosen.js';
export { importEngines, shapesOf } from './engines.js';
export { type Existing, type GivenNames, NO_NAMES } from './existing.js';
export { namesIn } from './given.js';
export { type Imported, importSchema } from './import.js';
