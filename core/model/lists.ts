import type { Expr } from '../notation/index.js';
import type { Context } from './context.js';
import { wrong } from './draft.js';
import type { Expression } from './expression.js';
import { refer } from './references.js';

type InList = Extract<Expr, { kind: 'in' }>;
type ParameterExpr = Extract<Expr, { kind: 'parameter' }>;

/** The name under which one value of a list is given: no parameter that a text declares is called so. */
export function nameInList(list: string, index: number): string {
  // A space that nobody types.
  return `${list}\u00a0${index + 1}`;
}

/**
 * `condition in :wanted`: one comparison for each value that is given. Among none nothing is; how many are given is known once
 * the query is run.
 */
export function resolveInList(context: Context, expr: InList): Expression | null {
  const [list] = expr.items;
  if (list?.kind !== 'parameter') return null;
  const type = context.parameters.get(list.name);
  const given = context.lists?.get(list.name);
  if (type === undefined) return context.reading.expression(context, list);
  if (given === undefined)
    return wrong(
      context.resolution,
      'no-list',
      list.span,
      `${context.label}: :${list.name} is one value, and a list is meant. Declare it as “${list.name} many …”, or write “= :${list.name}”.`,
    );
  referToParameter(context, list);
  const names = given === null ? [list.name] : Array.from({ length: given }, (_, index) => nameInList(list.name, index));
  const operand = context.reading.expression(context, expr.operand);
  if (operand === null) return null;
  if (names.length === 0) return { kind: 'value', value: expr.negated, type: { kind: 'boolean' }, span: expr.span };
  const items = names.map((name): Expr => ({ kind: 'parameter', name, span: list.span }));
  const single: Context = {
    ...context,
    lists: new Map(),
    query: null,
    parameters: new Map([...context.parameters, ...names.map((name) => [name, type] as const)]),
  };
  return context.reading.expression(single, { ...expr, items, list: false });
}

/** A list that stands where one value is meant. */
export function listAlone({ resolution, label }: Context, { name, span }: ParameterExpr): null {
  return wrong(
    resolution,
    'list-alone',
    span,
    `${label}: :${name} is a list, which stands behind “in” alone, as in “condition in :${name}”.`,
  );
}

/** Records that a parameter is used. */
export function referToParameter(context: Context, { name, span }: ParameterExpr): void {
  const named = { text: name, span: { start: span.end - name.length, end: span.end } };
  if (context.query !== null) refer(context.resolution.references, named, 'parameter', context.query);
}
