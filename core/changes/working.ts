import type { Dialect } from '../dialects/index.js';
import type { Column, Schema, Table } from '../schema/index.js';
import type { Select, SqlExpression, TableName } from '../sql/index.js';
import type { Aside } from './aside.js';
import type { Difference } from './compare.js';
import type { Operation } from './operation.js';
import type { Paired } from './pairs.js';
import type { MadeRows, TableShape } from './shaping.js';

/** Rows of a table that become one with others. */
export interface Merges {
  readonly of: TableName;
  /** Where it stands which with which. */
  readonly table: TableName;
  readonly selects: readonly Select[];
}

/** What it takes to work out the statements of a plan. */
export interface Working {
  readonly dialect: Dialect;
  readonly before: Schema;
  readonly after: Schema;
  readonly paired: Paired;
  readonly difference: Difference;
  /** A table as it is printed, in the words of the text. */
  stated(table: Table): Table;
  /** The shapes of tables that stay, with their former rows where they stand while the plan is carried out. */
  shapes(placed: (table: TableName) => TableName): readonly TableShape[];
  /** A value as it is written into a column. */
  declared(column: Column, value: SqlExpression): SqlExpression;
  rows(shape: TableShape, placed: (table: TableName) => TableName): Select;
  /** The tables of rows that become one with another, by the table whose rows they are, and what fills each, one after the other. */
  merges(placed: (table: TableName) => TableName): readonly Merges[];
  /** What is kept aside before it goes, and the rows of each. */
  asides(placed: (table: TableName) => TableName): readonly { readonly aside: Aside; readonly select: Select }[];
  /** Rows that are made so that others have something to point at, in the order in which what they are is kept aside. */
  madeRows(placed: (table: TableName) => TableName): readonly MadeRows[];
  /** Rows that come back to a table, of which those that stay stand where they are said to. */
  returning(table: Table, at?: TableName): readonly { readonly columns: readonly string[]; readonly select: Select }[];
  /** Rows that a new table begins with; null for none. */
  firstRows(
    table: Table,
    placed: (table: TableName) => TableName,
  ): { readonly columns: readonly string[]; readonly select: Select } | null;
}

/** Works out the statements by which one engine is changed. One file for each, and a line in the table of them. */
export type Strategy = (working: Working) => readonly Operation[];
