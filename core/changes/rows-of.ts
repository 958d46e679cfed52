import type { Dialect } from '../dialects/index.js';
import type { Column } from '../schema/index.js';
import { allOf, column, columnsOf, type Select, type SqlExpression, selectOf, speaksOf, tableSource } from '../sql/index.js';
import { typeOfColumn } from './conversion.js';
import { restsOnEnumerated } from './enumerated.js';
import type { ShapedColumn, Shaping, TableShape } from './shaping.js';

/** A select of a table's rows as they will be, under the names that their columns will have. */
export function rowsOf(shaping: Shaping, shape: TableShape, only?: readonly string[]): Select {
  const { dialect, placed } = shaping;
  const { before } = shape.pair;
  const wanted = only === undefined ? shape.columns : shape.columns.filter(({ column: { name } }) => only.includes(name));
  const where = staying(shape);
  return selectOf(tableSource(placed(before.name), before.name.name), {
    columns: wanted.map((one) => ({
      expression: one.carried ? one.value : declared(shaping, one.column, typed(dialect, one)),
      as: one.column.name,
    })),
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

/** A value as it is written into a column: one of an enumerated type is a text until its type is there. */
export function declared(
  { dialect, enumerated, isCarriedOut }: Pick<Shaping, 'dialect' | 'enumerated' | 'isCarriedOut'>,
  { type }: Column,
  value: SqlExpression,
): SqlExpression {
  const isText = isCarriedOut && restsOnEnumerated(enumerated.after, type);
  return isText ? { kind: 'cast', operand: dialect.conversions.text(value), type } : value;
}

/** The condition under which a row stays; null for all. */
export function staying({ leftOut, mergedAway }: TableShape): SqlExpression | null {
  return allOf([...leftOut, ...mergedAway].map((condition) => ({ kind: 'is true', operand: condition, negated: true })));
}
