/** Long work, and what it keeps open. */

export { Databases, type TreeAsk } from './databases.js';
export { BoundFiles } from './files.js';
export { type PendingDatabase, PendingDatabases } from './pending-databases.js';
export { PlacesInUse, passwordIn, shownAddress } from './places.js';
export { Progress } from './progress.js';
export { TreeEvents } from './tree-events.js';
