/** Long work, and what it keeps open. */
export { Databases, type OpenDatabase } from './databases.js';
