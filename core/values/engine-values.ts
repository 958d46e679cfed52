import type { SqlExpression } from '../sql/index.js';
import type { ValueType } from './types.js';
import type { Wire } from './wire.js';

/** A value as a driver takes it. */
export type BoundValue = string | number | bigint | Uint8Array | null;

/** The same, or a list of values where an engine takes one. */
export type BoundParameter = BoundValue | readonly BoundValue[];

export type DefaultValue =
  | { readonly kind: 'value'; readonly value: Wire }
  | { readonly kind: 'today' | 'now' }
  /** SQL of the engine, exactly as it stands behind DEFAULT. */
  | { readonly kind: 'sql'; readonly sql: string };

export type Aggregate = 'sum' | 'avg' | 'min' | 'max';

export type ShiftUnit = 'minute' | 'hour' | 'day' | 'week' | 'month' | 'year';

/** The sorts of JSON values that types of the notation differ in. */
export type JsonSort = 'number' | 'text' | 'truth';

/** How values travel in an engine's own JSON, where rows are fetched by columns. */
export interface JsonValues {
  /** What to put into the engine's JSON so that no digit is lost on the way. */
  toJson(type: ValueType, column: SqlExpression): SqlExpression;
  /** The same for a database that others fill: whatever is stored arrives, and is not changed on the way. */
  guardedJson(type: ValueType, column: SqlExpression): SqlExpression;
}

/** The elements of lists of JSON in which an engine gives rows: each in a form that `decode` reads. */
export interface JsonElements {
  /** @param madeHere the database was made here, so that every value fits its type */
  value(type: ValueType, column: SqlExpression, madeHere: boolean): SqlExpression;
  /** What is JSON already, so that it stands there as such, and not as a text. */
  json(column: SqlExpression): SqlExpression;
}

/** Whether SQL is asked by the program, with what it brings along, or stays in the database for whoever writes there. */
export type SqlPlace = 'query' | 'table';

export type Ordering = '<' | '<=' | '>' | '>=';

export interface Bounds {
  readonly low: SqlExpression;
  readonly high: SqlExpression;
  readonly negated: boolean;
}

/** An expression, and the type of its values. */
export interface Typed {
  readonly sql: SqlExpression;
  readonly type: ValueType;
}

/** A condition on a value. */
export interface ValueCondition {
  readonly sql: string;
  /** Its words would join what stands before it: it goes into parentheses there. */
  readonly joined: boolean;
}

/**
 * How one engine keeps, takes and gives values. One file fills it in for each engine; nothing else knows. The files
 * have their parts in this order, so that they can be read beside each other.
 */
export interface EngineValues {
  /** The declared type of a column. */
  columnType(type: ValueType): string;
  /** The declared type of a column that a key is made of, or that points at one. */
  keyedType(type: ValueType): string;
  /** The declared type of a key that the engine numbers. */
  keyType(type: ValueType): string;
  /**
   * The condition that keeps out of a column what its type does not allow; null where the engine does so itself.
   * A key that the engine numbers needs less of it.
   */
  check(type: ValueType, column: string, key: boolean): ValueCondition | null;
  /**
   * The condition under which a value fits a type, whatever the column is that it stands in: such as another tool declared.
   * Null where none can fail to.
   *
   * @param declared whether the text states how the column is declared, so that values stand as that type has them
   */
  fits(type: ValueType, column: string, declared: boolean): string | null;
  /** Whether a decimal may have more places than digits. */
  readonly morePlacesThanDigits: boolean;
  /** The collation that makes texts equal, and ordered, by their code points; null where the engine's own does so. */
  readonly collation: string | null;
  bind(type: ValueType, value: Wire): BoundValue;
  /** The keys of a batch, as the one value that is bound for all of them. */
  bindKeys(type: ValueType, keys: readonly Wire[]): BoundParameter;
  /** The type that a bound value is cast to, where the engine would else guess at it. */
  parameterType(type: ValueType): string | null;
  /** The types of a key's parts in the list that `bindKeys` binds. */
  listType(type: ValueType): string;
  /** A value that stands in the SQL itself. */
  literal(type: ValueType, value: Wire): SqlExpression;
  /**
   * A column as it is compared and computed with, where that differs from how it is stored.
   *
   * @param declared whether the text states a declared type of its own, so that values stand as that has them
   */
  operand(type: ValueType, column: SqlExpression, declared: boolean): SqlExpression;
  /** A number in the form in which numbers of another type are compared and computed with. */
  converted(value: Typed, wanted: ValueType): SqlExpression;
  /** A value as it is ordered. */
  ordered(type: ValueType, value: SqlExpression): SqlExpression;
  /** Which of two values of one type is more. */
  compared(operator: Ordering, left: SqlExpression, right: SqlExpression, type: ValueType, place: SqlPlace): SqlExpression;
  between(operand: SqlExpression, bounds: Bounds, type: ValueType, place: SqlPlace): SqlExpression;
  /** How values travel where rows are fetched by columns; null where they are fetched as rows. */
  readonly json: JsonValues | null;
  /** How values travel within the engine's JSON, where rows are fetched as one value of JSON. */
  readonly elements: JsonElements;
  /** From what the engine gives (its JSON, or its text of a value) to the wire form. */
  decode(type: ValueType): (value: unknown) => Wire;
  /** A value as the text that its wire form is, for joining texts. */
  asText(type: ValueType, value: SqlExpression): SqlExpression;
  /** A key as the text that its wire form is, for a column that holds keys of several types. */
  toText(type: ValueType, value: SqlExpression): SqlExpression;
  /** The value whose wire form a text is: the way back, of a text that is sure to be one. */
  fromText(type: ValueType, text: SqlExpression): SqlExpression;
  /**
   * The key that a text may be the wire form of, so that a row can be sought by it over an index; of a text that is none, any
   * value or none, but no error. Null where no such value can be made.
   */
  soughtKey(type: ValueType, text: SqlExpression): SqlExpression | null;
  /**
   * A value out of a column of JSON, where it stands under a name in its wire form.
   *
   * @param sure nobody puts anything else there; else what is no value of the type is read as none
   */
  fromJson(type: ValueType, json: SqlExpression, name: string, sure: boolean): SqlExpression;
  /** What stands under a name in a column of JSON, as the text of JSON: whatever it is. */
  jsonText(json: SqlExpression, name: string): SqlExpression;
  /** Whether what stands under a name in a column of JSON is of this sort; null where nothing stands there. */
  jsonIs(sort: JsonSort, json: SqlExpression, name: string): SqlExpression;
  /** Whether what a column of JSON holds is JSON, where nobody keeps that it is; null where the engine does. */
  isJson(json: SqlExpression): SqlExpression | null;
  /** No value, where others of the same column have some of this type. */
  absent(type: ValueType | null): SqlExpression;
  /** A date as the timestamp of its first moment, for comparing the two. */
  dateAsTimestamp(date: SqlExpression): SqlExpression;
  arithmetic(operator: '+' | '-' | '*' | '/' | '%', left: Typed, right: Typed, result: ValueType, place: SqlPlace): SqlExpression;
  negate(operand: Typed): SqlExpression;
  /** A date or time moved by an interval; months and years clamp to the end of the month. */
  shift(type: ValueType, value: SqlExpression, amount: string, unit: ShiftUnit, subtract: boolean): SqlExpression;
  daysBetween(left: SqlExpression, right: SqlExpression): SqlExpression;
  /** A case-sensitive `like` for a pattern that is known, where the engine's own depends on the session; else null. */
  constantLike(operand: SqlExpression, pattern: string): SqlExpression | null;
  /** The pattern of a `like` that is not known before, so that a backslash at its end stands for itself. */
  pattern(pattern: SqlExpression): SqlExpression;
  /** A function of the notation over its arguments; `result` is the type of what it gives. */
  apply(name: string, args: readonly Typed[], result: ValueType): SqlExpression;
  /** An aggregate over the values of a group (its result type: `aggregateType`). */
  aggregate(name: Aggregate, operand: Typed): SqlExpression;
  /** The default of a column, for writers that do not go through the tool. */
  defaultOf(type: ValueType, value: DefaultValue): string;
}
