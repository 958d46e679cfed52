import type { Dialect } from '../dialects/index.js';
import { allOf, column, columnsOf, type Select, type SqlExpression, selectOf, speaksOf, tableSource } from '../sql/index.js';
import { typeOfColumn } from './conversion.js';
import type { ShapedColumn, Shaping, TableShape } from './shaping.js';

/** A select of a table's rows as they will be, under the names that their columns will have. */
export function rowsOf({ dialect, placed }: Shaping, shape: TableShape, only?: readonly string[]): Select {
  const { before } = shape.pair;
  const wanted = only === undefined ? shape.columns : shape.columns.filter(({ column: { name } }) => only.includes(name));
  const where = staying(shape);
  return selectOf(tableSource(placed(before.name), before.name.name), {
    columns: wanted.map((one) => ({ expression: typed(dialect, one), as: one.column.name })),
    // A join of which nothing is taken would only make its table a condition of others.
    joins: shape.joins.filter(
      ({ source }) => wanted.some(({ value }) => speaksOf(value, source.alias)) || speaksOf(where, source.alias),
    ),
    where,
  });
}

/**
 * The condition that a row goes, for a statement that has no joins.
 *
 * @param key the columns that tell its rows apart, as they are called when they are read
 */
export function going({ placed }: Pick<Shaping, 'placed'>, shape: TableShape, key: readonly string[]): SqlExpression | null {
  const stays = staying(shape);
  if (stays === null) return null;
  const goes: SqlExpression = { kind: 'not', operand: stays };
  const { name } = shape.pair.before;
  const joins = shape.joins.filter(({ source }) => speaksOf(stays, source.alias));
  if (joins.length === 0) return goes;
  const columns = key.map((one) => ({ expression: column(name.name, one), as: null }));
  const select = selectOf(tableSource(placed(name), name.name), { columns, joins, where: goes });
  return { kind: 'in select', operand: columnsOf(name.name, key), select };
}

/**
 * A value under the type of its column, where an engine would else guess at it; without its length, since a cast would cut what is
 * longer without a word (PostgreSQL, “Character Types”).
 */
export function typed(dialect: Dialect, { value, column }: ShapedColumn): SqlExpression {
  const type = dialect.values.parameterType(typeOfColumn(dialect, column));
  return value.kind === 'column' || type === null ? value : { kind: 'cast', operand: value, type };
}

/** The condition under which a row stays; null for all. */
export function staying({ leftOut, mergedAway }: TableShape): SqlExpression | null {
  return allOf([...leftOut, ...mergedAway].map((condition) => ({ kind: 'is true', operand: condition, negated: true })));
}
