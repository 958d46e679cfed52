import type { Table } from '../schema/index.js';
import {
  allOf,
  column,
  columnsOf,
  derived,
  equal,
  existsIn,
  number,
  type Select,
  type SqlExpression,
  selectOf,
  string,
  type TableName,
} from '../sql/index.js';
import type { Keeping } from './answers.js';
import { typeOfColumn } from './conversion.js';
import { tableKey } from './pairs.js';
import { rowsOf } from './rows-of.js';
import type { Shaping, TableShape } from './shaping.js';

/** What the columns of a table of merged rows are called: the key of a row that goes, and of the one that stays. */
export const goneColumn = (at: number): string => `gone_${at + 1}`;
export const staysColumn = (at: number): string => `stays_${at + 1}`;

/** The answers that say which of several rows stays, by table. */
export function keepingsOf({ answers }: Pick<Shaping, 'answers'>, table: TableName): readonly Keeping[] {
  return answers.keeping.filter((keeping) => tableKey(keeping.table) === tableKey(table));
}

/**
 * The rows that become one with another, as the key of each and of the one that stays, both as they were. Rows without a value in
 * one of the columns are alone.
 *
 * @param shape how the rows come to be what they will be, before any of them is merged
 */
export function mergedRows(shaping: Shaping, shape: TableShape, keeping: Keeping): Select | null {
  const { before, after } = shape.pair;
  const key = keyColumns(shaping, before);
  const place = `${before.name.name}.${keeping.columns.join(', ')}`;
  if (key.length === 0) {
    shaping.fault(`keep ${place}: rows of a table without a key cannot be told apart.`);
    return null;
  }
  const known = (name: string) => shape.columns.some((one) => one.column.name === name);
  const unknown = [...keeping.columns, ...keeping.order.map((term) => term.column)].find((name) => !known(name));
  if (unknown !== undefined) {
    shaping.fault(`keep ${place}: ${after.name.name} has no column ${unknown}.`);
    return null;
  }
  // What rows are told apart by, and no more: else which of them become one would rest on all that they point at.
  const rows = rowsOf(shaping, shape, [...keeping.columns, ...keeping.order.map((term) => term.column)]);
  const keys = key.map((name, at) => ({
    expression: column(before.name.name, shaping.named(before.name, name)),
    as: keyOf(at),
  }));
  const all = derived({ ...rows, columns: [...rows.columns, ...keys] }, ROWS);
  const ownKeys = key.map((_, at) => column(ROWS, keyOf(at)));
  const wrongKey = keeping.picked.find((one) => one.length !== key.length);
  if (wrongKey !== undefined) {
    const parts = key.length === 1 ? '1 part' : `${key.length} parts`;
    shaping.fault(`keep ${place}: the key of a row of ${before.name.name} has ${parts}, and “${wrongKey.join(', ')}” is none.`);
    return null;
  }
  const picked = isPicked(shaping, before, keeping);
  const numbered = selectOf(all, {
    columns: [
      ...keys.map(({ as }) => ({ expression: column(ROWS, as), as })),
      ...keeping.columns.map((name) => ({ expression: column(ROWS, name), as: name })),
      {
        expression: {
          kind: 'row number',
          partition: keeping.columns.map((name) => column(ROWS, name)),
          orderBy: [
            { expression: picked, descending: true, nulls: false },
            ...keeping.order.map((term) => ({ expression: column(ROWS, term.column), descending: term.descending, nulls: true })),
            ...ownKeys.map((expression) => ({ expression, descending: false, nulls: false })),
          ],
        },
        as: PLACE,
      },
      { expression: picked, as: PICKED },
    ],
    where: allOf(keeping.columns.map((name) => ({ kind: 'is null', operand: column(ROWS, name), negated: true }))),
  });
  const same = equal(columnsOf(GONE, keeping.columns), columnsOf(STAYS, keeping.columns));
  const is = (source: string, operator: '=' | '>', than: 0 | 1, of = PLACE): SqlExpression => ({
    kind: 'binary',
    operator,
    left: column(source, of),
    right: number(than),
  });
  // Where nothing says which stays they are not merged, and asked about; and who was picked never goes.
  const stays = [same, is(STAYS, '=', 1), ...(keeping.order.length === 0 ? [is(STAYS, '=', 1, PICKED)] : [])];
  return selectOf(derived(numbered, GONE), {
    columns: key.flatMap((_, at) => [
      { expression: column(GONE, keyOf(at)), as: goneColumn(at) },
      { expression: column(STAYS, keyOf(at)), as: staysColumn(at) },
    ]),
    joins: [{ kind: 'inner', source: derived(numbered, STAYS), on: allOf(stays) ?? same }],
    where: allOf([is(GONE, '>', 1), is(GONE, '=', 0, PICKED)]),
  });
}

/** 1 for a row that was picked, by its key as it was, and 0 for all others. */
function isPicked({ dialect, rowAddress }: Shaping, before: Table, { picked }: Keeping): SqlExpression {
  const parts = keyColumns({ rowAddress }, before).map((name, at) => {
    const one = before.columns.find((known) => known.name === name);
    const own = column(ROWS, keyOf(at));
    return dialect.values.toText(one === undefined ? { kind: 'bigint' } : typeOfColumn(dialect, one), own);
  });
  const branches = picked.map((key) => ({
    when: allOf(parts.map((part, at) => equal(part, string(key[at] ?? '')))) ?? { kind: 'boolean' as const, value: false },
    then: number(1),
  }));
  return branches.length === 0 ? number(0) : { kind: 'case', branches, otherwise: number(0) };
}

/** The condition that a row becomes one with another, and goes. */
export function isMergedAway(shaping: Shaping, shape: TableShape, keeping: Keeping): SqlExpression | null {
  const { before } = shape.pair;
  const key = keyColumns(shaping, before).map((name) => column(before.name.name, shaping.named(before.name, name)));
  const table = shaping.merged(before.name);
  const [first, ...more] = key;
  if (first === undefined || table === null) return null;
  const own: SqlExpression = more.length === 0 ? first : { kind: 'tuple', items: key };
  const gone = key.map((_, at) => goneColumn(at));
  if (table !== 'asked') return existsIn(table, equal(columnsOf(MERGED, gone), own), { alias: MERGED });
  const select = mergedRows(shaping, shape, keeping);
  if (select === null) return null;
  const only = { ...select, columns: select.columns.filter(({ as }) => as !== null && gone.includes(as)) };
  return { kind: 'in select', operand: own, select: only };
}

/** A part of a key to a table of which rows become one: that of the row that stays, which is joined under an alias. */
export function keptKey(alias: string, value: SqlExpression, at: number): SqlExpression {
  return { kind: 'function', name: 'coalesce', args: [column(alias, staysColumn(at)), value] };
}

/** The columns by which a row of a table is told apart: its key, or else what the engine itself tells it apart by; none where nothing does. */
export function keyColumns({ rowAddress }: Pick<Shaping, 'rowAddress'>, { primaryKey, columns }: Table): readonly string[] {
  if (primaryKey.columns.length > 0 || rowAddress === null) return primaryKey.columns;
  return columns.some(({ name }) => name.toLowerCase() === rowAddress) ? [] : [rowAddress];
}

const ROWS = 'rows_to_be';
const GONE = 'gone';
const STAYS = 'stays';
const MERGED = 'merged';
const PLACE = 'place_among_doubles';
const PICKED = 'picked';
const keyOf = (at: number): string => `key_as_it_was_${at + 1}`;
