/** Types of values, their one wire form, and a table of type × engine. The one place that knows an engine's values. */
import type { DialectName } from '../notation/index.js';
import type { EngineValues } from './engine-values.js';
import { mariadbValues } from './mariadb.js';
import { postgresValues } from './postgres.js';
import { sqliteValues } from './sqlite.js';

export { keyListText, keyParts, shownKey, writeKey } from './composite.js';
export { decimals } from './decimals.js';
export type {
  Aggregate,
  BoundParameter,
  Bounds,
  BoundValue,
  DefaultValue,
  EngineValues,
  JsonSort,
  JsonValues,
  Ordering,
  ShiftUnit,
  SqlPlace,
  Typed,
  ValueCondition,
} from './engine-values.js';
export { joinKey, splitKey } from './keys.js';
export { LONGEST_KEY_TEXT, mariadbValues } from './mariadb.js';
export { wirePattern } from './pieces.js';
export { postgresValues } from './postgres.js';
export { bytesOf as bytesFrom, fromJsonText } from './reading.js';
export { aggregateType, commonNumber, isLongDecimal, resultOf, scaled } from './results.js';
export { sqliteValues } from './sqlite.js';
export * from './types.js';
export * from './wire.js';

/** The value rules of each engine, by the name of its dialect. */
export const engineValues: Readonly<Record<DialectName, EngineValues>> = {
  sqlite: sqliteValues,
  postgres: postgresValues,
  mariadb: mariadbValues,
};
