/** Two versions of a text: what changed between them, line by line, and both brought into one. */
export { type BroughtAgain, bringAgain, type DatabaseChange } from './again.js';
export { withLineEndsOf, withLineFeeds } from './line-ends.js';
export { addedLines, changedLines, type LinePart, lineParts } from './lines.js';
export { type Clash, type Merge, merge, settled } from './merge.js';
