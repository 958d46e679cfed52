/** Two versions of a text: what changed between them, line by line, and both brought into one. */
export { changedLines, type LinePart, lineParts } from './lines.js';
export { type Clash, type Merge, merge, settled } from './merge.js';
