import { column, derived, isSameColumn, type OrderTerm, type Select, type SqlExpression, selectOf } from '../../sql/index.js';

type Scalar = Extract<SqlExpression, { kind: 'scalar' }>;

/**
 * A select in which a count that several of its columns use is asked once: it stands in a select within, and they use what came
 * of it. Where none is used twice the select stays as it is.
 */
export function askedOnce(select: Select): Select {
  const uses = new Map<Scalar, number>();
  for (const { expression } of select.columns)
    for (const scalar of new Set(scalarsIn(expression))) uses.set(scalar, (uses.get(scalar) ?? 0) + 1);
  const shared = new Set(Array.from(uses).flatMap(([scalar, times]) => (times > 1 ? [scalar] : [])));
  if (shared.size === 0) return select;
  const alias = 'fetched_rows';
  const inner: { expression: SqlExpression; as: string }[] = [];
  const taken = new Set(select.columns.map(({ as }) => (as ?? '').toLowerCase()));
  /** The name under which the select within has an expression. */
  const named = (expression: SqlExpression, wish: string): SqlExpression => {
    const known = inner.find((one) => one.expression === expression || isSameColumn(one.expression, expression));
    if (known !== undefined) return column(alias, known.as);
    let as = wish;
    for (let number = 2; taken.has(as.toLowerCase()); number++) as = `${wish}_${number}`;
    taken.add(as.toLowerCase());
    inner.push({ expression, as });
    return column(alias, as);
  };
  const outer = select.columns.map(({ expression, as }) => {
    const own = as ?? '';
    const scalars = scalarsIn(expression);
    const splits =
      scalars.some((scalar) => shared.has(scalar)) && scalars.every((scalar) => shared.has(scalar)) && !hasExists(expression);
    if (!splits) {
      inner.push({ expression, as: own });
      return { expression: column(alias, own), as: own };
    }
    return { expression: rebuilt(expression, named), as: own };
  });
  const orderBy = select.orderBy.map((term): OrderTerm => ({ ...term, expression: named(term.expression, 'ordered') }));
  // Within, an order only says which rows come before the limit.
  const cuts = select.limit !== null || select.offset !== null;
  const within = select.orderBy.flatMap((term): OrderTerm[] => {
    const known = inner.find(({ expression }) => expression === term.expression && expression.kind === 'scalar');
    if (!cuts) return [];
    return [known === undefined ? term : { ...term, expression: column(null, known.as) }];
  });
  return selectOf(derived({ ...select, columns: inner, orderBy: within }, alias), { columns: outer, orderBy });
}

/** An expression over the columns of the select within: whatever reads a row there is named. */
function rebuilt(expression: SqlExpression, named: (expression: SqlExpression, wish: string) => SqlExpression): SqlExpression {
  const again = (inner: SqlExpression) => rebuilt(inner, named);
  switch (expression.kind) {
    case 'scalar':
      return named(expression, 'counted');
    case 'column':
      return named(expression, expression.column);
    case 'binary':
      return { ...expression, left: again(expression.left), right: again(expression.right) };
    case 'not':
    case 'negate':
    case 'is null':
    case 'is true':
    case 'cast':
    case 'collate':
    case 'convert':
    case 'trimmed':
      return { ...expression, operand: again(expression.operand) };
    case 'in':
      return { ...expression, operand: again(expression.operand), items: expression.items.map(again) };
    case 'between':
      return { ...expression, operand: again(expression.operand), low: again(expression.low), high: again(expression.high) };
    case 'like':
      return { ...expression, operand: again(expression.operand), pattern: again(expression.pattern) };
    case 'function':
      return { ...expression, args: expression.args.map(again) };
    case 'case':
      return {
        ...expression,
        branches: expression.branches.map(({ when, then }) => ({ when: again(when), then: again(then) })),
        otherwise: expression.otherwise === null ? null : again(expression.otherwise),
      };
    case 'tuple':
      return { ...expression, items: expression.items.map(again) };
    default:
      return expression;
  }
}

/** The parts that stand directly below one, of the kinds that a derived field is made of; not those of a select within. */
function partsOf(expression: SqlExpression): readonly SqlExpression[] {
  switch (expression.kind) {
    case 'binary':
      return [expression.left, expression.right];
    case 'not':
    case 'negate':
    case 'is null':
    case 'is true':
    case 'cast':
    case 'collate':
    case 'convert':
    case 'trimmed':
      return [expression.operand];
    case 'in':
      return [expression.operand, ...expression.items];
    case 'between':
      return [expression.operand, expression.low, expression.high];
    case 'like':
      return [expression.operand, expression.pattern];
    case 'function':
      return expression.args;
    case 'case':
      return [
        ...expression.branches.flatMap(({ when, then }) => [when, then]),
        ...(expression.otherwise === null ? [] : [expression.otherwise]),
      ];
    case 'tuple':
      return expression.items;
    default:
      return [];
  }
}

function scalarsIn(expression: SqlExpression): Scalar[] {
  return expression.kind === 'scalar' ? [expression] : partsOf(expression).flatMap(scalarsIn);
}

function hasExists(expression: SqlExpression): boolean {
  return ['exists', 'in select', 'row number'].includes(expression.kind) || partsOf(expression).some(hasExists);
}
