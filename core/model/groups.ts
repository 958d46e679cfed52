import type { Expr, Span } from '../notation/index.js';
import type { Context } from './context.js';
import { wrong } from './draft.js';
import { type Expression, operandsOf } from './expression.js';

/** Where something stands in the text makes no difference to what it is. */
const PLACES: ReadonlySet<string> = new Set(['span', 'head', 'note']);

/** Are two expressions the same, wherever they stand in the text? */
export function isSame(one: Expression, other: Expression): boolean {
  return written(one) === written(other);
}

/** What an expression, or a part of one, says, wherever it stands in the text. */
export function written(expression: Expression): string {
  return JSON.stringify(expression, (key, value: unknown) => (PLACES.has(key) ? undefined : value));
}

/**
 * The term of `group by` that an expression is, whole: all rows of a group have it in common. Null for any other. Nothing is
 * told of what is wrong with it.
 */
export function groupTerm(context: Context, terms: readonly Expression[], expr: Expr): Expression | null {
  const { group: _, ...ofRow } = context;
  const quiet = { ...context.resolution, findings: [], references: new Map() };
  const expression = context.reading.expression({ ...ofRow, resolution: quiet }, expr);
  const term = expression === null ? -1 : terms.findIndex((one) => isSame(one, expression));
  const found = terms[term];
  if (found === undefined) return null;
  // Once more, for the places where it names things.
  context.reading.expression(ofRow, expr);
  return { kind: 'group term', term, type: found.type, span: expr.span };
}

/** Tells that the rows of a group differ in something. */
export function notGrouped(context: Context, span: Span): null {
  return wrong(
    context.resolution,
    'not-grouped',
    span,
    `${context.label}: this can differ among the rows of a group. Write it behind “group by” too, or aggregate it, as in “max(…)” or “count(*)”.`,
  );
}

/** Does an expression speak of a group of rows? */
export function speaksOfGroup(expression: Expression): boolean {
  return expression.kind === 'of group' || operandsOf(expression).some(speaksOfGroup);
}
