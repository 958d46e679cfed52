import type { TableName } from '../sql/index.js';
import type { Schema } from './schema.js';

/** How the names of the tables begin that this program keeps in a database for itself. No plan and no text has them. */
export const OWN_PREFIX = 'family_tree_';

/** Whether a table is one of this program's own. */
export function isOwnTable({ name }: TableName): boolean {
  return name.toLowerCase().startsWith(OWN_PREFIX);
}

/** A schema without the tables that this program keeps for itself. */
export function withoutOwnTables(schema: Schema): Schema {
  return { ...schema, tables: schema.tables.filter(({ name }) => !isOwnTable(name)) };
}
