/** Model → Schema: tables, columns, keys and constraints; a Schema read back from an engine has the same type. */

export { type Absent, absentFrom } from './absent.js';
export { type BoundConstant, type Leaves, literalSql, rowLeaves, toSql } from './conditions.js';
export { type ForeignTarget, foreignTarget } from './holders.js';
export { foreignKeyColumns, foreignKeyIn, writtenTrigger } from './kept.js';
export { relationsKept } from './kept-keys.js';
export { lostRules } from './kinds/lost.js';
export { isOwnTable, OWN_PREFIX, withoutOwnTables } from './own-tables.js';
export * from './schema.js';
export { type SchemaOf, type SchemaOptions, schemaOf } from './schema-of.js';
export type { SchemaTarget } from './tables.js';
