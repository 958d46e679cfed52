/** Schema and statements → SQL text. */
import type { DialectName } from '../notation/index.js';
import type { Schema } from '../schema/index.js';
import type { Dialect } from './dialect.js';
import { sqliteDialect } from './sqlite.js';

export type { Dialect } from './dialect.js';
export { sqliteDialect };

/** The dialects that are built. */
export const dialects: Readonly<Partial<Record<DialectName, Dialect>>> = { sqlite: sqliteDialect };

/** A schema as a script to run in a shell. */
export function scriptOf(dialect: Dialect, schema: Schema): string {
  const statements = dialect.createStatements(schema).map((statement) => `${statement};`);
  return statements.length === 0 ? '' : `${statements.join('\n\n')}\n`;
}

/** The statements that make each table, for showing what of a schema changes. */
export function scriptParts(
  schema: Schema,
  dialect: Dialect = sqliteDialect,
): { readonly table: string; readonly sql: string }[] {
  return schema.tables.map((table) => ({
    table: table.name.name,
    sql: scriptOf(dialect, { ...schema, tables: [table] }).trimEnd(),
  }));
}
