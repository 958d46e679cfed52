import type { DialectName } from '../notation/index.js';
import type { Schema, SchemaTarget, Table } from '../schema/index.js';
import type { Query } from '../sql/index.js';

/** One way to write SQL. */
export interface Dialect extends SchemaTarget {
  readonly name: DialectName;
  printQuery(query: Query): string;
  /** What of a table's SQL is there for one column: the column, its constraints and its indexes. */
  columnParts(table: Table, column: string): string[];
  /** The statements that make a schema, in an order that works; none ends in a semicolon. */
  createStatements(schema: Schema): string[];
}
