/** Types of values, their one wire form, and a table of type × engine. The one place that knows an engine's values. */
export type { BoundValue, DefaultValue, EngineValues, ShiftUnit } from './engine-values.js';
export { resultOf, sqliteValues } from './sqlite.js';
export * from './types.js';
export * from './wire.js';
