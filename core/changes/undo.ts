import type { TableName } from '../sql/index.js';
import type { HistoryEntry, Rename } from './history.js';
import { columnKey, type FormerColumn, type FormerNames, type Paired, tableKey } from './pairs.js';

/** The tables and columns that a plan gives another name. */
export function renamesIn({ tables }: Paired): readonly Rename[] {
  return tables.flatMap(({ before, after, columns }): Rename[] => {
    if (before === null || after === null) return [];
    const table: Rename[] =
      tableKey(before.name) === tableKey(after.name)
        ? []
        : [{ table: before.name, column: null, now: { table: after.name, column: null } }];
    return [
      ...table,
      ...columns.flatMap((pair): Rename[] =>
        pair.before === null || pair.after === null || pair.before.name === pair.after.name
          ? []
          : [{ table: before.name, column: pair.before.name, now: { table: after.name, column: pair.after.name } }],
      ),
    ];
  });
}

/**
 * What the tables and columns of a plan that is taken back are called before that: as the plan noted it. Nothing has to be asked,
 * since what the plan took away is known to be no other.
 */
export function formerNamesOfUndo({ before, after, renames }: HistoryEntry): FormerNames {
  const tables = new Map<string, TableName | 'new'>();
  const columns = new Map<string, FormerColumn | 'new'>();
  const since = new Map(after.tables.map((table) => [tableKey(table.name), table]));
  for (const table of before.tables) {
    const renamed = renames.find((one) => one.column === null && tableKey(one.table) === tableKey(table.name));
    const now = renamed?.now.table ?? table.name;
    tables.set(tableKey(table.name), since.has(tableKey(now)) ? now : 'new');
    for (const { name } of table.columns) {
      const other = renames.find(
        (one) => one.column?.toLowerCase() === name.toLowerCase() && tableKey(one.table) === tableKey(table.name),
      );
      columns.set(columnKey(table.name, name), other?.now.column == null ? 'new' : { table: now, column: other.now.column });
    }
  }
  return { tables, columns };
}
