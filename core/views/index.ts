/** Walls → views: the same as a database itself can hold it. */
export { type AskedAsSql, VIEW_PREFIX, type ViewsOfWalls, viewsOfWalls, type WallAsSql } from './views-of-walls.js';
