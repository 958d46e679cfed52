import type { Check, ForeignKey, Schema, Table } from '../schema/index.js';
import { sqlName, sqlTokens, type TableName } from '../sql/index.js';
import { type Paired, tableKey } from './pairs.js';

/** New names of tables, and of the columns of each, by the keys of what they were. */
export interface Renames {
  readonly tables: ReadonlyMap<string, TableName>;
  /** By the key of the table as it was: its columns' names as they will be, by their names in lower case. */
  readonly columns: ReadonlyMap<string, ReadonlyMap<string, string>>;
}

/** What of a paired schema has another name. */
export function renamesOf({ tables }: Paired): Renames {
  const named = new Map<string, TableName>();
  const columns = new Map<string, ReadonlyMap<string, string>>();
  for (const { before, after, columns: pairs } of tables) {
    if (before === null || after === null) continue;
    if (tableKey(before.name) !== tableKey(after.name)) named.set(tableKey(before.name), after.name);
    const own = new Map<string, string>();
    for (const pair of pairs)
      if (pair.before !== null && pair.after !== null && pair.before.name !== pair.after.name)
        own.set(pair.before.name.toLowerCase(), pair.after.name);
    if (own.size > 0) columns.set(tableKey(before.name), own);
  }
  return { tables: named, columns };
}

/** A schema with the names that its tables and columns will have, so that it can be held against the one that is to be. */
export function withNewNames({ tables, ...rest }: Schema, renames: Renames, quote: (name: string) => string): Schema {
  return { ...rest, tables: tables.map((table) => renamedTable(table, renames, quote)) };
}

function renamedTable(table: Table, renames: Renames, quote: (name: string) => string): Table {
  const own = renames.columns.get(tableKey(table.name));
  const name = (column: string) => own?.get(column.toLowerCase()) ?? column;
  const names = (columns: readonly string[]) => columns.map(name);
  const sql = (text: string) => (own === undefined ? text : withNames(text, own, quote));
  const check = (one: Check): Check => ({ ...one, expression: sql(one.expression) });
  const foreign = (key: ForeignKey): ForeignKey => {
    const target = { schema: key.schema, name: key.table };
    const there = renames.columns.get(tableKey(target));
    return {
      ...key,
      columns: names(key.columns),
      table: renames.tables.get(tableKey(target))?.name ?? key.table,
      references: key.references.map((column) => there?.get(column.toLowerCase()) ?? column),
    };
  };
  return {
    ...table,
    name: renames.tables.get(tableKey(table.name)) ?? table.name,
    columns: table.columns.map((column) => ({
      ...column,
      name: name(column.name),
      generated: column.generated === null ? null : { ...column.generated, sql: sql(column.generated.sql) },
    })),
    primaryKey: { ...table.primaryKey, columns: names(table.primaryKey.columns) },
    foreignKeys: table.foreignKeys.map(foreign),
    uniques: table.uniques.map((unique) => ({ ...unique, columns: names(unique.columns) })),
    checks: table.checks.map(check),
    indexes: table.indexes.map((index) => ({ ...index, columns: names(index.columns) })),
  };
}

/** SQL in which columns bear their new names. */
function withNames(sql: string, names: ReadonlyMap<string, string>, quote: (name: string) => string): string {
  let written = '';
  let at = 0;
  for (const token of sqlTokens(sql)) {
    if (token.kind !== 'word' && token.kind !== 'quoted') continue;
    const name = names.get(sqlName(token).toLowerCase());
    if (name === undefined) continue;
    written += sql.slice(at, token.start) + quote(name);
    at = token.end;
  }
  return written + sql.slice(at);
}

/** The names that SQL speaks of, in lower case. */
export function namesIn(sql: string): ReadonlySet<string> {
  const names = new Set<string>();
  for (const token of sqlTokens(sql))
    if (token.kind === 'word' || token.kind === 'quoted') names.add(sqlName(token).toLowerCase());
  return names;
}
