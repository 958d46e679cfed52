/** Where labels and stems stand: pure, for the page, pictures and the command line. */
export { layoutMap } from './layout.js';
export type * from './map.js';
export { type EntityLabel, type LabelLine, type MapOptions, mapOf } from './model-map.js';
