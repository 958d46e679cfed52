import type { Dialect } from '../dialects/index.js';
import type { Column, Schema, Table } from '../schema/index.js';
import type { Join, Select, SqlExpression, TableName } from '../sql/index.js';
import type { Answers } from './answers.js';
import type { Aside } from './aside.js';
import type { EnumeratedTypes } from './enumerated.js';
import type { ColumnPair, Paired, TablePair } from './pairs.js';

/** A column of a table as it will be, and what fills it from a row as it was. */
export interface ShapedColumn {
  readonly column: Column;
  readonly pair: ColumnPair;
  readonly value: SqlExpression;
  /** Its former value, as it stands; null where it is new. */
  readonly former: SqlExpression | null;
  /** Its value before anybody is asked. */
  readonly base: SqlExpression;
  /** Whether the value is the former one as it stands. */
  readonly carried: boolean;
}

/** The rows of a table as they will be, over the rows as they were. */
export interface TableShape {
  readonly pair: TablePair & { readonly before: Table; readonly after: Table };
  /** Those that the engine does not fill itself: no generated column, no new number. */
  readonly columns: readonly ShapedColumn[];
  /** Which rows that a row points at become one with another: joined to each row. */
  readonly joins: readonly Join[];
  /** Conditions under which a row is left out. */
  readonly leftOut: readonly SqlExpression[];
  /** Conditions under which a row becomes one with another. */
  readonly mergedAway: readonly SqlExpression[];
}

/** Where a table of before stands when its rows are read. */
export type Placed = (table: TableName) => TableName;

/** What a plan's rows are made by. */
export interface Shaping {
  readonly dialect: Dialect;
  readonly before: Schema;
  readonly after: Schema;
  readonly paired: Paired;
  /** The enumerated types as they are and as they will be. */
  readonly enumerated: { readonly before: EnumeratedTypes; readonly after: EnumeratedTypes };
  /** Whether what tables stand on is there as it will be: until then a value of a type that is to come is a text. */
  readonly isCarriedOut: boolean;
  readonly answers: Answers;
  /** What now is, as a timestamp in wire form. */
  readonly now: string;
  readonly placed: Placed;
  /** What a column of a table of before is called when its rows are read. */
  named(table: TableName, column: string): string;
  /**
   * Where it stands which rows of a table become one with another: a table of their keys; *asked*, where it has to be worked out in
   * the statement itself; null where none do.
   */
  merged(table: TableName): TableName | 'asked' | null;
  /** A column of the engine's own by which rows are told apart that have no key, as long as a plan lasts; null where it has none. */
  readonly rowAddress: string | null;
  /** The tables whose rows are being worked out, so that a circle of keys comes to an end. */
  readonly within: ReadonlySet<string>;
  /** What was kept aside of what comes back. */
  readonly asides: readonly Aside[];
  /** Is told of an answer that does not stand. */
  fault(message: string): void;
}

/** Rows that are made, so that others have something to point at: each has one value, in one column. */
export interface MadeRows {
  /** The table, as it was. */
  readonly of: Table;
  /** The column as it is called when its rows are read. */
  readonly column: string;
  /** The same as it will be called. */
  readonly columnAfter: string;
  readonly tableAfter: TableName;
  /** The values, each once, as `made`. */
  readonly select: Select;
}
