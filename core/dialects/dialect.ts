import type { DialectName } from '../notation/index.js';
import type { Schema, SchemaTarget } from '../schema/index.js';
import type { Query } from '../sql/index.js';

/** One way to write SQL. */
export interface Dialect extends SchemaTarget {
  readonly name: DialectName;
  printQuery(query: Query): string;
  /** The statements that make a schema, in an order that works; none ends in a semicolon. */
  createStatements(schema: Schema): string[];
}
