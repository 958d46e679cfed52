import { entityOf, type Key, lineage, type Model, tableEntity } from '../model/index.js';
import { type MadeTable, storedBeside } from '../samples/index.js';
import {
  allOf,
  anyOf,
  column,
  type Insert,
  type SqlExpression,
  selectOf,
  type TableName,
  tableSource,
  type Update,
} from '../sql/index.js';
import type { BoundValue, ValueType, Wire } from '../values/index.js';
import type { Cell } from './cell.js';
import type { Doing } from './doing.js';
import { keysOf, noteWritten, type RowsToWrite, refuseUnseen } from './reach.js';
import { keyParts, type RowAt } from './row-at.js';
import type { CommandWork } from './steps.js';
import type { WrittenCell } from './told.js';

/** So many keys stand in one statement. */
const KEYS_AT_ONCE = 200;
/** So many of one column are deleted by one: rows that go together may point at each other, and keep each other where they do not. */
const DELETED_AT_ONCE = 10_000;

/**
 * Puts a row into the table or the tables that hold it, the base's first.
 *
 * @param cells its values by their columns; those that the engine fills are left out
 * @returns its key, as far as the engine has given it
 */
export function* insertRow(
  doing: Doing,
  entity: string,
  cells: ReadonlyMap<string, Wire>,
  told: readonly WrittenCell[],
): CommandWork<Wire[]> {
  const { key } = entityOf(doing.model, entity);
  const row = new Map(cells);
  for (const [at, layout] of doing.layoutOf(entity).entries()) {
    const missing = key.columns.filter((name) => row.get(name) === undefined);
    const { insert, values } = insertInto(doing, { entity, layout, row }, at === 0 ? missing : []);
    const { rows } = yield* doing.change(insert, values, told);
    if (at === 0 && missing.length === 0) yield* countOn(doing, insert.into, key);
    missing.forEach((name, index) => {
      const field = key.fields.find((one) => one.column.value === name);
      if (field !== undefined) row.set(name, decoded(doing, field.type, rows[0]?.[index]));
    });
  }
  return key.columns.map((name) => row.get(name) ?? null);
}

/** Lets the engine's own numbers go on after a key that was given. */
export function* countOn({ dialect, inputs }: Doing, table: TableName, { fields }: Key): CommandWork<void> {
  const [only, ...more] = fields;
  // No transaction takes a count back (PostgreSQL, 9.17), so that a rehearsal leaves it alone.
  if (!inputs.keep || only === undefined || more.length > 0 || !['integer', 'bigint'].includes(only.type.kind)) return;
  const sql = dialect.countOnAfter(table, only.column.value);
  if (sql !== null) yield { kind: 'read', sql, values: [] };
}

/** The statement that puts a row into one of its tables. */
function insertInto(
  { dialect, model }: Doing,
  {
    entity,
    layout: { schema, table, columns },
    row,
  }: { readonly entity: string; readonly layout: MadeTable; readonly row: ReadonlyMap<string, Wire> },
  returning: readonly string[],
): { readonly insert: Insert; readonly values: readonly BoundValue[] } {
  const beside = storedBeside(model, entity, row);
  const valueIn = (name: string): Wire => (beside.has(name) ? beside.get(name) : row.get(name)) ?? null;
  // What nothing was said of is left to the table: a default of its own, a number. A null that was said is written.
  const filled = columns.filter(({ name }) => row.has(name) || valueIn(name) !== null);
  const insert: Insert = {
    kind: 'insert',
    into: { schema, name: table },
    columns: filled.map(({ name }) => name),
    rows: [filled.map((_, at): SqlExpression => ({ kind: 'placeholder', number: at + 1 }))],
    returning,
  };
  return { insert, values: filled.map(({ name, type }) => dialect.values.bind(type, valueIn(name))) };
}

/** Gives columns of rows, all of one entity, other values: the same in each. */
export function* updateRows(
  doing: Doing,
  rows: RowsToWrite,
  cells: readonly Cell[],
  told: readonly WrittenCell[],
): CommandWork<void> {
  const { model } = doing;
  const { entity } = rows;
  const keys = keysOf(rows);
  if (keys.length === 0) return;
  const tables = new Map<string, Cell[]>();
  for (const cell of cells) {
    const name = tableEntity(model, entity, cell.owner);
    tables.set(name, [...(tables.get(name) ?? []), cell]);
  }
  const inJson = new Set(jsonColumns(model, entity));
  for (const [name, own] of tables) {
    const table = entityOf(model, name).table.value;
    const plain = own.filter((cell) => !inJson.has(cell.column));
    const within = own.filter((cell) => inJson.has(cell.column));
    if (plain.length > 0) yield* updatePlain(doing, table, entity, keys, plain, told);
    if (within.length > 0) for (const key of keys) yield* updateJson(doing, table, { entity, key }, within, told);
  }
  const { table } = entityOf(model, entity);
  for (const key of keys) {
    noteWritten(doing, { entity, key });
    yield* refuseUnseen(doing, { entity, key }, cells, told, table.value.name);
  }
}

function* updatePlain(
  doing: Doing,
  table: TableName,
  entity: string,
  keys: readonly Wire[],
  cells: readonly Cell[],
  told: readonly WrittenCell[],
): CommandWork<void> {
  const { values } = doing.dialect;
  const set = cells.map(({ column: name }, at) => ({
    column: name,
    value: { kind: 'placeholder', number: at + 1 } as const,
  }));
  const given = cells.map(({ type, value }) => values.bind(type, value));
  for (let from = 0; from < keys.length; from += KEYS_AT_ONCE) {
    const { where, bound } = ofKeys(doing, entity, keys.slice(from, from + KEYS_AT_ONCE), cells.length);
    const update: Update = { kind: 'update', table, set, where };
    yield* doing.change(update, [...given, ...bound], told);
  }
}

/** The columns of the fields that stand in a column of JSON. */
function jsonColumns(model: Model, entity: string): readonly string[] {
  const { kinds } = entityOf(model, entity);
  if (kinds?.storage.kind !== 'json') return [];
  return lineage(model, entity)
    .slice(1)
    .flatMap((one) => one.fields.filter(({ owner }) => owner === one.name).map((field) => field.column.value));
}

/** Reads the column of JSON as it stands, puts other values into it, and writes it back. */
function* updateJson(
  doing: Doing,
  table: TableName,
  row: RowAt,
  cells: readonly Cell[],
  told: readonly WrittenCell[],
): CommandWork<void> {
  const { dialect, model } = doing;
  const { kinds } = entityOf(model, row.entity);
  const name = kinds?.storage.kind === 'json' ? kinds.storage.column : '';
  const { where, bound } = ofKeys(doing, row.entity, [row.key], 0);
  const select = selectOf(tableSource(table), { columns: [{ expression: column(null, name), as: null }], where });
  const answer = yield { kind: 'read', sql: dialect.printQuery(select), values: bound };
  const held = answer.kind === 'written' ? answer.result.rows[0]?.[0] : null;
  const before = held === null || held === undefined ? {} : (JSON.parse(String(held)) as Record<string, Wire>);
  const after = Object.fromEntries([...Object.entries(before), ...cells.map((cell) => [cell.column, cell.value] as const)]);
  const json: Cell = { column: name, type: { kind: 'json' }, value: after as Wire, owner: kinds?.root ?? row.entity };
  yield* updatePlain(doing, table, row.entity, [row.key], [json], told);
}

/** Removes rows of one entity; of kinds in tables of their own the base's, with which they go. */
export function* deleteRows(doing: Doing, rows: RowsToWrite): CommandWork<void> {
  const { model } = doing;
  const { entity } = rows;
  const keys = keysOf(rows);
  const root = entityOf(model, entity).kinds?.root ?? entity;
  const table = entityOf(model, tableEntity(model, entity, root)).table.value;
  const together = entityOf(model, entity).key.fields.length === 1 ? DELETED_AT_ONCE : KEYS_AT_ONCE;
  for (let from = 0; from < keys.length; from += together) {
    const { where, bound } = ofKeys(doing, entity, keys.slice(from, from + together), 0);
    yield* doing.change({ kind: 'delete', from: table, where }, bound, []);
  }
  for (const key of keys) doing.written.forget({ entity, key });
}

/** The condition that a row's key is one of these, whose values come behind so many others. */
function ofKeys(
  { dialect, model }: Doing,
  entity: string,
  keys: readonly Wire[],
  behind: number,
): { readonly where: SqlExpression | null; readonly bound: readonly BoundValue[] } {
  const bound: BoundValue[] = [];
  const placeholder = (type: ValueType, value: Wire): SqlExpression => {
    bound.push(dialect.values.bind(type, value));
    return { kind: 'placeholder', number: behind + bound.length };
  };
  const parts = keys.map((key) => keyParts(model, { entity, key }));
  const [first] = parts;
  if (first?.length === 1) {
    const items = parts.flatMap((all) => all.map(({ type, value }) => placeholder(type, value)));
    const operand = column(null, first[0]?.column ?? '');
    const only = items[0];
    if (items.length === 1 && only !== undefined)
      return { where: { kind: 'binary', operator: '=', left: operand, right: only }, bound };
    return { where: { kind: 'in', operand, items, negated: false }, bound };
  }
  const each = parts.map((all) =>
    allOf(
      all.map(({ column: name, type, value }) => ({
        kind: 'binary' as const,
        operator: '=' as const,
        left: column(null, name),
        right: placeholder(type, value),
      })),
    ),
  );
  return { where: anyOf(each.flatMap((one) => one ?? [])), bound };
}

/** Whether a row holds these values. */
export function* holds(doing: Doing, row: RowAt, cells: readonly Cell[]): CommandWork<boolean> {
  const { dialect, model } = doing;
  const [first] = cells;
  if (first === undefined) return false;
  const table = entityOf(model, tableEntity(model, row.entity, first.owner)).table.value;
  const { where, bound } = ofKeys(doing, row.entity, [row.key], 0);
  const columns = cells.map(({ column: name }) => ({ expression: column(null, name), as: null }));
  const select = selectOf(tableSource(table), { columns, where });
  const answer = yield { kind: 'read', sql: dialect.printQuery(select), values: bound };
  const held = answer.kind === 'written' ? answer.result.rows[0] : undefined;
  if (held === undefined) return false;
  return cells.every(({ type, value }, at) => JSON.stringify(decoded(doing, type, held[at])) === JSON.stringify(value));
}

/** A value as a driver gives it, in wire form: whole numbers come as numbers of one kind or another, where rows come one by one. */
export function decoded({ dialect }: Doing, type: ValueType, value: unknown): Wire {
  const isWhole = typeof value === 'bigint' || typeof value === 'number';
  const read = !isWhole ? value : type.kind === 'bigint' ? String(value) : typeof value === 'bigint' ? Number(value) : value;
  return dialect.values.decode(type)(read);
}
