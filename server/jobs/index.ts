/** Long work, and what it keeps open. */

export { Changes } from './changes.js';
export { Databases, type TreeAsk } from './databases.js';
export { BoundFiles } from './files.js';
export { PlacesInUse, passwordIn, shownAddress } from './places.js';
export { Progress } from './progress.js';
export { RowFiles, type SentRows } from './row-files.js';
export { TreeEvents } from './tree-events.js';
export { Waiting } from './waiting.js';
