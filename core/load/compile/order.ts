import { type ExpressionType, entityOf, fieldOf } from '../../model/index.js';
import type { PlannedExpression, PlannedOrder } from '../../plan/index.js';
import { isSameColumn, itemsOf, type OrderTerm, type Select, type SqlExpression } from '../../sql/index.js';
import type { ValueType } from '../../values/index.js';
import { type Compiling, entityAt, type SourceRow } from './compiling.js';

/** Terms of an order alone. Each value is ordered as all engines order it. */
export function statedTerms(compiling: Compiling, row: SourceRow, orders: readonly PlannedOrder[]): OrderTerm[] {
  return orders.flatMap((order) => termsOf(compiling, row, order).map(({ term }) => term));
}

interface Term {
  /** The value itself, before it is brought into the form by which it is ordered. */
  readonly value: SqlExpression;
  readonly term: OrderTerm;
}

function termsOf(compiling: Compiling, row: SourceRow, { expression, descending }: PlannedOrder): Term[] {
  const nulls = canBeNull(compiling, row, expression);
  return itemsOf(compiling.sqlOf(row, expression)).map((value, index) => {
    const type = partType(compiling, expression.type, index);
    const ordered = type === null ? value : compiling.values.ordered(type, value);
    return { value, term: { expression: ordered, descending, nulls } };
  });
}

/** Terms of an order, and the key of the row last, so that the order is total. */
export function orderTerms(compiling: Compiling, row: SourceRow, orders: readonly PlannedOrder[]): Select['orderBy'] {
  const { model, values } = compiling;
  const all = orders.flatMap((order) => termsOf(compiling, row, order));
  const stated = all.map(({ value }) => value);
  const terms = all.map(({ term }) => term);
  const parts = itemsOf(row.builder.key(row.alias));
  const { fields } = entityAt(model, row.access).key;
  return [
    ...terms,
    ...parts.flatMap((part, index) => {
      const type = fields[index]?.type;
      if (type === undefined || stated.some((other) => isSameColumn(other, part))) return [];
      return [{ expression: values.ordered(type, part), descending: false, nulls: false }];
    }),
  ];
}

/** The type of a value, or of one part of the key of a row. */
function partType({ model }: Compiling, type: ExpressionType, part: number): ValueType | null {
  if (type.kind === 'interval' || type.kind === 'null') return null;
  if (type.kind !== 'row') return type;
  return entityOf(model, type.entity).key.fields[part]?.type ?? null;
}

/** Required fields surely have a value: those of the row itself, and of a row that is surely there. */
function canBeNull({ model }: Compiling, row: SourceRow, expression: PlannedExpression): boolean {
  if (expression.kind !== 'field') return true;
  const { required } = fieldOf(entityOf(model, expression.entity).fields, expression.field);
  return !required || !row.builder.at(expression.access).sure;
}
