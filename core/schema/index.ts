/** Model → Schema: tables, columns, keys and constraints; a Schema read back from an engine has the same type. */
export { type Leaves, literalSql, toSql } from './conditions.js';
export { type Absent, absentFrom } from './absent.js';
export * from './schema.js';
export { type SchemaOf, schemaOf } from './schema-of.js';
export type { SchemaTarget } from './tables.js';
