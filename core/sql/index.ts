/** SQL as data, and reading SQL that others wrote. Knows no engine and no model. */

export * from './change.js';
export { type ColumnText, type CreateTable, readCreateTable, type TableConstraint } from './create-table.js';
export { eachSqlToken, type SqlToken, sqlName, sqlTokens } from './lexer.js';
export { mariadbStatements } from './mariadb-script.js';
export { isNumbered, isRowNumber, withoutNumbering } from './numbering.js';
export { postgresStatements } from './postgres-script.js';
export { named, renamed, renumbered, withColumn, withGiven, withSources } from './renamed.js';
export { type ScriptStatement, statementsOf } from './script.js';
export { dialectOfScript } from './script-dialect.js';
export { reads, speaksOf } from './speaks.js';
export * from './stated/index.js';
export * from './statement.js';
export { tableShape } from './table-shape.js';
