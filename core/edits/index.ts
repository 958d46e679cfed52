/** Edits of a text: what a click does, and renames; and the commands that a click on a row stands for. Each keeps the rest of the text byte for byte. */
export * from './clicks.js';
export {
  createOrUpdateText,
  createText,
  deleteText,
  type Entered,
  type Entry,
  keyFrom,
  linkNamedText,
  linkText,
  nameText,
  type RowName,
  rowText,
  updateNamedText,
  updateText,
  valueText,
} from './command-text.js';
export { addMeant, allTogether, type Together } from './findings.js';
export { withoutFormerNames } from './former-names.js';
export { KINDS_STORAGES, setKindsStorage } from './kinds-storage.js';
export { applied } from './lines.js';
export { exchangeText, type Placed, type PlaceOf } from './place-text.js';
export { type Rename, rename } from './rename.js';
export { addSampleRow, setSampleCount } from './samples.js';
export { withTitle } from './title.js';
