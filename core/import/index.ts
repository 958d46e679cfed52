/** An existing database's Schema → a text in the kin notation that a person would have written. */
export { type Imported, importSchema } from './write.js';
