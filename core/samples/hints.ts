import { type Condition, type Expression, someExpression } from '../model/index.js';
import { evaluate } from './evaluate.js';

/** Bounds and values of one field, as far as they can be read off its checks. They guide the making; the checks decide. */
export interface Hints {
  least: number | string | null;
  most: number | string | null;
  values: readonly (string | number)[] | null;
  leastLength: number | null;
  mostLength: number | null;
}

/** Reads from each check what it asks of single fields: bounds, lists and lengths that stand in a conjunction. */
export function hintsOf(checks: readonly Condition[], now: string): ReadonlyMap<string, Hints> {
  const hints = new Map<string, Hints>();
  const of = (field: string): Hints => {
    const known = hints.get(field) ?? { least: null, most: null, values: null, leastLength: null, mostLength: null };
    hints.set(field, known);
    return known;
  };
  const constant = (expression: Expression): string | number | null => {
    if (someExpression(expression, (inner) => inner.kind === 'field')) return null;
    const value = evaluate(expression, () => null, now);
    return typeof value === 'string' || typeof value === 'number' ? value : null;
  };
  const bound = (field: Expression, operator: string, limit: string | number) => {
    if (field.kind === 'field') {
      const hint = of(field.field);
      const step = typeof limit === 'number' && (field.type.kind === 'integer' || field.type.kind === 'bigint') ? 1 : 0;
      const above = typeof limit === 'number' ? limit + step : limit;
      const below = typeof limit === 'number' ? limit - step : limit;
      if (operator === '=') hint.least = hint.most = limit;
      if (operator === '>=') hint.least = limit;
      if (operator === '>') hint.least = above;
      if (operator === '<=') hint.most = limit;
      if (operator === '<') hint.most = below;
    } else if (
      field.kind === 'function' &&
      field.name === 'length' &&
      field.args[0]?.kind === 'field' &&
      typeof limit === 'number'
    ) {
      const hint = of(field.args[0].field);
      if (operator === '=' || operator === '>=' || operator === '>') hint.leastLength = limit + (operator === '>' ? 1 : 0);
      if (operator === '=' || operator === '<=' || operator === '<') hint.mostLength = limit - (operator === '<' ? 1 : 0);
    }
  };
  const read = (expression: Expression): void => {
    if (expression.kind === 'binary') {
      if (expression.operator === 'and') {
        read(expression.left);
        read(expression.right);
        return;
      }
      const right = constant(expression.right);
      const left = constant(expression.left);
      if (right !== null) bound(expression.left, expression.operator, right);
      else if (left !== null) bound(expression.right, turned(expression.operator), left);
    } else if (expression.kind === 'between' && !expression.negated) {
      const [low, high] = [constant(expression.low), constant(expression.high)];
      if (low !== null) bound(expression.operand, '>=', low);
      if (high !== null) bound(expression.operand, '<=', high);
    } else if (expression.kind === 'in' && !expression.negated && expression.operand.kind === 'field') {
      of(expression.operand.field).values = expression.items.map(constant).filter((item) => item !== null);
    }
  };
  for (const check of checks) read(check.expression);
  return hints;
}

function turned(operator: string): string {
  return { '<': '>', '<=': '>=', '>': '<', '>=': '<=' }[operator] ?? operator;
}

/** The stored fields that an expression reads. */
export function fieldsIn(expression: Expression): string[] {
  const fields = new Set<string>();
  someExpression(expression, (inner) => {
    if (inner.kind === 'field' || inner.kind === 'pivot field') fields.add(inner.field);
    return false;
  });
  return Array.from(fields);
}
