import type { DialectName } from '../notation/index.js';
import type { ForeignKey, Schema, SchemaTarget, Table } from '../schema/index.js';
import type { Query } from '../sql/index.js';

/** One way to write SQL. */
export interface Dialect extends SchemaTarget {
  readonly name: DialectName;
  printQuery(query: Query): string;
  /** What of a table's SQL is there for these columns: the columns, their constraints and their indexes. */
  columnParts(table: Table, columns: readonly string[]): string[];
  /** A foreign key as a table states it. */
  foreignKey(key: ForeignKey): string;
  /** The statements that make a schema, in an order that works; none ends in a semicolon. */
  createStatements(schema: Schema): string[];
}
