/** Every message between browser and server: its schema, and its type. Both sides use them. */
export * from './audits.js';
export * from './bring-in.js';
export * from './changes.js';
export * from './commands.js';
export * from './database.js';
export * from './events.js';
export * from './failure.js';
export { LONGEST_TEXT } from './parts.js';
export * from './preferences.js';
export * from './reach.js';
export * from './reads.js';
export * from './revisions.js';
export * from './row-files.js';
export * from './rows.js';
export * from './runs.js';
export * from './trees.js';
export * from './ways.js';
export * from './why.js';
