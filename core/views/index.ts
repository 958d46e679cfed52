/** Walls → views and policies: the same as a database itself can hold it. */
export { policiesOfWalls } from './policies-of-walls.js';
export { VIEW_PREFIX, viewsOfWalls } from './views-of-walls.js';
export type { AskedAsSql, ScriptOfWalls, WallAsSql, WallsAsSql } from './walls-as-sql.js';
