import type { SqlExpression } from '../sql/index.js';
import type { ValueType } from './types.js';
import type { Wire } from './wire.js';

/** What an engine's driver takes as a value. */
export type BoundValue = string | number | bigint | Uint8Array | null;

export type DefaultValue =
  | { readonly kind: 'value'; readonly value: Wire }
  | { readonly kind: 'today' | 'now' }
  /** SQL of the engine, exactly as it stands behind DEFAULT. */
  | { readonly kind: 'sql'; readonly sql: string };

export type ShiftUnit = 'minute' | 'hour' | 'day' | 'week' | 'month' | 'year';

/** How one engine keeps, takes and gives values. One file fills it in for each engine; nothing else knows. */
export interface EngineValues {
  /** The declared type of a column. */
  columnType(type: ValueType): string;
  /** The declared type of a key that the engine numbers. */
  keyType(type: ValueType): string;
  /**
   * The condition that keeps out of a column what its type does not allow; null where the engine does so itself.
   * A key that the engine numbers needs less of it.
   */
  check(type: ValueType, column: string, key: boolean): string | null;
  bind(type: ValueType, value: Wire): BoundValue;
  /** A column as it is compared, ordered and computed with, where that differs from how it is stored. */
  operand(type: ValueType, column: SqlExpression): SqlExpression;
  /** What to put into the engine's JSON so that no digit is lost on the way. */
  toJson(type: ValueType, column: SqlExpression): SqlExpression;
  /** The same for a database that others fill: whatever is stored arrives, and is not changed on the way. */
  guardedJson(type: ValueType, column: SqlExpression): SqlExpression;
  /** From the engine's JSON to the wire form. */
  decode(type: ValueType): (value: unknown) => Wire;
  arithmetic(operator: '+' | '-' | '*' | '/' | '%', left: SqlExpression, right: SqlExpression, result: ValueType): SqlExpression;
  /** A date or time moved by an interval; months and years clamp to the end of the month. */
  shift(type: ValueType, value: SqlExpression, amount: string, unit: ShiftUnit, subtract: boolean): SqlExpression;
  daysBetween(left: SqlExpression, right: SqlExpression): SqlExpression;
  /** A case-sensitive `like` for a pattern that is known, where the engine's own depends on the session; else null. */
  constantLike(operand: SqlExpression, pattern: string): SqlExpression | null;
  functionName(name: string): string;
  /** The default of a column, for writers that do not go through the tool. */
  defaultOf(type: ValueType, value: DefaultValue): string;
}
