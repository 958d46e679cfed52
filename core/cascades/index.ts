/** A database's own keys and triggers → which rows a delete reaches, as tables of one statement. */
export { columnsIn } from './columns.js';
export { type DeleteEdge, type DeleteEffect, PARENT } from './edges.js';
export { type Going, goesItself, goingFrom, meantBy, type Roots } from './going.js';
export { type DeleteGraph, deleteGraph } from './graph.js';
