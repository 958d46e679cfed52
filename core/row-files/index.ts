/** Lines of a file → rows of an entity, and back. What a file is, and how its bytes are read, is for others to know. */
export { type FileLine, type LineFault, type LineOutcome, type LinesEnd, LinesIn, type LinesInRequest } from './lines-in.js';
export { cellText, columnsOut, loadsFor, valueIn } from './lines-out.js';
export { type FileMapping, matchOf, problemsOf } from './mapping.js';
export { type ColumnUse, guessUses, type OfferedUse, readUse, usesOf, writeUse } from './uses.js';
export type { FileValue } from './values.js';
