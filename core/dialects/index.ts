/** Schema and statements → SQL text. */
import type { DialectName } from '../notation/index.js';
import type { Schema } from '../schema/index.js';
import type { Dialect } from './dialect.js';
import { mariadbDialect } from './mariadb.js';
import { postgresDialect } from './postgres.js';
import { sqliteDialect } from './sqlite.js';

export { boundsOf, type Conversions } from './conversions.js';
export type { AtWork, Dialect, DialectPowers, KeyColumns, Policies } from './dialect.js';
export { type KeyToHold, keysToHold } from './keys-to-hold.js';
export { mariadbDialect, postgresDialect, sqliteDialect };

/** All dialects. */
export const dialects: Readonly<Record<DialectName, Dialect>> = {
  sqlite: sqliteDialect,
  postgres: postgresDialect,
  mariadb: mariadbDialect,
};

/** A schema as a script to run in a shell. */
export function scriptOf(dialect: Dialect, schema: Schema): string {
  const statements = dialect.createStatements(schema).map(dialect.ended);
  if (statements.length === 0) return '';
  const head = dialect.scriptHead(schema);
  return `${head}${head === '' ? '' : '\n'}${statements.join('\n\n')}\n`;
}

/** The statements that make each table, for showing what of a schema changes. */
export function scriptParts(
  schema: Schema,
  dialect: Dialect = sqliteDialect,
): { readonly table: string; readonly sql: string }[] {
  return schema.tables.map((table) => ({
    table: table.name.name,
    sql: dialect
      .createStatements({ prelude: [], tables: [table], others: [] })
      .map(dialect.ended)
      .join('\n\n'),
  }));
}
