import type { SqlExpression } from '../sql/index.js';

type ColumnExpression = Extract<SqlExpression, { kind: 'column' }>;

/** The columns that an expression speaks of. */
export function columnsIn(expression: SqlExpression): readonly ColumnExpression[] {
  const found: ColumnExpression[] = [];
  // An expression is plain data, so every part of it is reached in the same way.
  const look = (value: unknown): void => {
    if (Array.isArray(value)) value.forEach(look);
    else if (typeof value === 'object' && value !== null) {
      if ('kind' in value && value.kind === 'column') found.push(value as ColumnExpression);
      else Object.values(value).forEach(look);
    }
  };
  look(expression);
  return found;
}
