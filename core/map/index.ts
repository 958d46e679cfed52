/** Where labels and stems stand: pure, for the page, pictures and the command line. */
export { type CloseKin, closeKinMap, type KinMap } from './close-kin.js';
export { isKnot, knotLabel, pivotLabel, relationOfLabel } from './label-id.js';
export { detailOnMap, nameOnMap } from './label-text.js';
export { layoutMap } from './layout.js';
export type * from './map.js';
export { type EntityLabel, type LabelLine, type MapOptions, type ModelMap, mapOf } from './model-map.js';
export { stemPath, stemPaths } from './stem-path.js';
