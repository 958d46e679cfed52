import { type Model, snakeCase } from '../../model/index.js';
import type { StoredRows } from '../../plan/index.js';
import { foreignTarget } from '../../schema/index.js';
import { column, derived, type Select, selectOf, string, type TableName, tableSource } from '../../sql/index.js';
import type { Reading } from './readings.js';

/** The name that stored rows have in a statement, where no other is given. */
export function storedName(model: Model, rows: StoredRows): string {
  if (rows.kind === 'table') return rows.table.name;
  const target = foreignTarget(model, rows.entity);
  return target.kind === 'table' ? target.table.name : snakeCase(rows.entity);
}

/** How rows are read as they are stored: a table, some rows of one, or several tables as one, with the columns that are asked for. */
export function storedReading(model: Model, rows: StoredRows, alias: string): Reading {
  if (rows.kind === 'table') return readTable(rows.table, alias, '');
  const target = foreignTarget(model, rows.entity);
  if (target.kind === 'tables') return readTables(target.tables, alias, rows.entity);
  const plain = readTable(target.table, alias, rows.entity);
  const { among } = target;
  if (among === null) return plain;
  const mark = column(alias, among.column);
  const items = among.values.map(string);
  return { ...plain, condition: () => ({ kind: 'in', operand: mark, items, negated: false }) };
}

function readTable(table: TableName, alias: string, entity: string): Reading {
  return {
    entity,
    alias,
    source: () => tableSource(table, alias),
    column: (_, name) => column(alias, name),
    field: (_, field) => column(alias, field.column.value),
    delivered: () => null,
    mark: null,
    marksOf: () => [],
    condition: null,
  };
}

function readTables(tables: readonly TableName[], alias: string, entity: string): Reading {
  const wanted = new Set<string>();
  const want = (name: string) => {
    wanted.add(name);
    return column(alias, name);
  };
  const part = (table: TableName): Select =>
    selectOf(tableSource(table), {
      columns:
        wanted.size === 0
          ? [{ expression: { kind: 'number', text: '1' }, as: 'one' }]
          : Array.from(wanted, (name) => ({ expression: column(table.name, name), as: name })),
    });
  return {
    ...readTable({ schema: null, name: alias }, alias, entity),
    source: () => derived({ kind: 'union all', selects: tables.map(part) }, alias),
    column: (_, name) => want(name),
    field: (_, field) => want(field.column.value),
  };
}
