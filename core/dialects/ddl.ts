import {
  type Column,
  type ForeignKey,
  foreignKeyColumns,
  type Index,
  type Schema,
  type Table,
  type Unique,
} from '../schema/index.js';
import type { TableName } from '../sql/index.js';
import { printTable } from './printer.js';

/** The parts of a CREATE TABLE that each dialect spells its own way. */
export interface DdlSpelling {
  quote(name: string): string;
  /** What stands behind a column's type, default and collation. */
  columnTail(column: Column): string;
  /** What stands behind a table's bracket. */
  tableTail(table: Table): string;
  /** An index's column, where the engine takes no more than a part of it. */
  indexColumn(table: Table, column: string): string;
  /** Whether a key can be looked at when the transaction ends only. */
  readonly defers: boolean;
  /** The checks that stand in the statement of the table. */
  checksOf(table: Table): Table['checks'];
}

/** The statements that make tables, constraint by constraint, for the engines that take the standard's form. */
export interface Ddl {
  table(table: Table): string;
  index(table: Table, index: Index): string;
  /** Its unique indexes, or the others. */
  indexes(table: Table, unique: boolean): string[];
  foreignKey(key: ForeignKey): string;
  addForeignKey(table: Table, key: ForeignKey): string;
  /** The constraints that stand as SQL and need what else is made: another table, an index, the rows as they are. */
  lateConstraints(table: Table): string[];
  columnParts(table: Table, names: readonly string[]): string[];
  tableName(name: TableName): string;
}

/** SQL:2016, 11.3 and following: tables first, foreign keys when all tables are there. */
export function ddlOf(spelling: DdlSpelling): Ddl {
  const { quote } = spelling;
  const list = (columns: readonly string[]) => columns.map(quote).join(', ');
  const named = (name: string | null) => (name === null ? '' : `constraint ${quote(name)} `);
  const tableName = (name: TableName) => printTable(name, { quote, schemas: true });

  const columnLine = (column: Column) => {
    const { name, type, notNull, generated, collation } = column;
    return [
      quote(name),
      ` ${type}`,
      collation === null ? '' : ` collate ${quote(collation)}`,
      generated === null ? '' : ` generated always as (${generated.sql}) ${generated.stored ? 'stored' : 'virtual'}`,
      notNull ? ' not null' : '',
      column.default === null ? '' : ` default ${column.default}`,
      spelling.columnTail(column),
    ].join('');
  };
  const uniqueLine = (unique: Unique) => `${named(unique.name)}unique (${list(unique.columns)})`;
  const foreignKey = (key: ForeignKey) => {
    if (key.sql !== null) return key.sql;
    const references = key.references.length === 0 ? '' : ` (${list(key.references)})`;
    const rules = [
      key.onDelete === 'no action' ? '' : ` on delete ${key.onDelete}`,
      key.onUpdate === 'no action' ? '' : ` on update ${key.onUpdate}`,
      key.deferred && spelling.defers ? ' deferrable initially deferred' : '',
    ];
    const target = tableName({ schema: key.schema, name: key.table });
    return `${named(key.name)}foreign key (${list(key.columns)}) references ${target}${references}${rules.join('')}`;
  };
  const index = (table: Table, made: Index) => {
    if (made.sql !== null) return made.sql;
    const columns = made.columns.map((column) => spelling.indexColumn(table, column)).join(', ');
    return `create ${made.unique ? 'unique ' : ''}index ${quote(made.name)} on ${tableName(table.name)} (${columns})`;
  };
  return {
    tableName,
    foreignKey,
    index,
    indexes: (table, unique) => table.indexes.filter((made) => made.unique === unique).map((made) => index(table, made)),
    lateConstraints: (table) =>
      table.statement !== null
        ? []
        : table.constraints.filter(comesLate).map((sql) => `alter table ${tableName(table.name)} add ${sql}`),
    addForeignKey: (table, key) => `alter table ${tableName(table.name)} add ${foreignKey(key)}`,
    table(table) {
      if (table.statement !== null) return table.statement;
      const { columns: key, name } = table.primaryKey;
      const lines = [
        ...table.columns.map(columnLine),
        ...(key.length > 0 ? [`${named(name)}primary key (${list(key)})`] : []),
        ...table.uniques.map(uniqueLine),
        ...spelling.checksOf(table).map((check) => `${named(check.name)}check (${check.expression})`),
        ...table.constraints.filter((sql) => !comesLate(sql)),
      ];
      return `create table ${tableName(table.name)} (\n  ${lines.join(',\n  ')}\n)${spelling.tableTail(table)}`;
    },
    columnParts(table, names) {
      const isThis = (columns: readonly string[]) => columns.join('\n') === names.join('\n');
      return [
        ...table.columns.filter((column) => names.includes(column.name)).map(columnLine),
        ...table.uniques.filter((unique) => isThis(unique.columns)).map(uniqueLine),
        ...table.foreignKeys.filter((key) => isThis(key.columns)).map(foreignKey),
        ...table.indexes.filter((made) => isThis(made.columns)).map((made) => index(table, made)),
      ];
    },
  };
}

/** A foreign key needs the other table, and the index that it is looked up by; what is not valid must not look at rows. */
function comesLate(sql: string): boolean {
  return /\bnot\s+valid\s*$/i.test(sql) || foreignKeyColumns(sql) !== null;
}

/** The schemas that tables stand in, each once; none for the one that is used where nothing is said. */
export function schemasOf({ tables }: Schema): string[] {
  return Array.from(new Set(tables.flatMap(({ name }) => name.schema ?? [])));
}
