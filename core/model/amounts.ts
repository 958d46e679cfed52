import type { Expr } from '../notation/index.js';
import type { Context } from './context.js';
import { wrong } from './draft.js';
import type { Expression, ExpressionType } from './expression.js';
import { fitTo, resolveExpression } from './expressions.js';

/** How many rows: a whole number, or a parameter that is one; null, with a finding, for anything else. */
export function resolveAmount(context: Context, kind: string, amount: Expr): Expression | null {
  const expression = resolveExpression({ ...context, entity: null, label: `${context.label}, ${kind}` }, amount);
  if (expression === null) return null;
  const wanted: ExpressionType = { kind: 'integer' };
  if (expression.kind === 'value' && /^\d+$/.test(String(expression.value))) {
    if (String(expression.value).length < 19) return expression;
    return wrong(
      context.resolution,
      'amount',
      amount.span,
      `${context.label}: no engine counts as far as this ${kind}. Write less.`,
    );
  }
  if (expression.kind === 'parameter' && (expression.type.kind === 'integer' || expression.type.kind === 'bigint'))
    return fitTo(context, expression, wanted);
  return wrong(
    context.resolution,
    'amount',
    amount.span,
    `${context.label}: ${kind} is a whole number or a parameter of type integer.`,
  );
}
