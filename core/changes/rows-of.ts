import type { Dialect } from '../dialects/index.js';
import { allOf, type Select, type SqlExpression, selectOf, tableSource } from '../sql/index.js';
import { typeOfColumn } from './conversion.js';
import type { ShapedColumn, Shaping, TableShape } from './shaping.js';

/** A select of a table's rows as they will be, under the names that their columns will have. */
export function rowsOf({ dialect, placed }: Shaping, shape: TableShape, only?: readonly string[]): Select {
  const { before } = shape.pair;
  const wanted = only === undefined ? shape.columns : shape.columns.filter(({ column: { name } }) => only.includes(name));
  return selectOf(tableSource(placed(before.name), before.name.name), {
    columns: wanted.map((one) => ({ expression: typed(dialect, one), as: one.column.name })),
    joins: shape.joins,
    where: staying(shape),
  });
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
