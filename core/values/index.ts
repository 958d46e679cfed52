/** Types of values, their one wire form, and a table of type × engine. The one place that knows an engine's values. */
export { keyParts, shownKey, writeKey } from './composite.js';
export type { BoundValue, DefaultValue, EngineValues, ShiftUnit } from './engine-values.js';
export { joinKey, splitKey } from './keys.js';
export { resultOf, sqliteValues } from './sqlite.js';
export * from './types.js';
export * from './wire.js';
