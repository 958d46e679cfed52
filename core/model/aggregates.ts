import { type Expr, type Name, type Path, withArticle } from '../notation/index.js';
import { type Aggregate, aggregateType, type ValueType } from '../values/index.js';
import type { Context } from './context.js';
import { memberOf } from './context.js';
import { describeType } from './describe-type.js';
import { wrong } from './draft.js';
import type { Expression, Hop } from './expression.js';
import { ends, pivotBehind, walk } from './paths.js';

type Call = Extract<Expr, { kind: 'call' }>;

export const AGGREGATES: readonly Aggregate[] = ['sum', 'avg', 'min', 'max'];

/** Does `count( )` speak of the rows of a group: of their number, or of a value that each has? */
export function isOfGroup(context: Context, { args: [arg], star }: Call): boolean {
  return context.group !== undefined && (star || arg?.kind !== 'path' || !leadsToMany(context, arg.path));
}

/**
 * `sum(loans.fee)`: what comes of the values of the rows behind a path to many; or, in a query of groups, of a value that each
 * row of the group has. Null, with a finding, where it is neither.
 */
export function resolveAggregate(context: Context, expr: Call, aggregate: Aggregate | 'count'): Expression | null {
  const [arg, ...more] = expr.args;
  if (expr.star && aggregate === 'count') return { kind: 'of group', aggregate, value: null, type: BIGINT, span: expr.span };
  if (arg === undefined || more.length > 0 || expr.star) return misread(context, expr, aggregate);
  if (arg.kind === 'path' && leadsToMany(context, arg.path) && aggregate !== 'count')
    return overPath(context, expr, arg.path, aggregate);
  if (context.group === undefined) return misread(context, expr, aggregate);
  const { group: _, ...ofRow } = context;
  const value = context.reading.expression(ofRow, arg);
  if (value === null) return null;
  const type = aggregate === 'count' ? BIGINT : typeOf(context, expr, aggregate, value);
  return type === null ? null : { kind: 'of group', aggregate, value, type, span: expr.span };
}

const BIGINT: ValueType = { kind: 'bigint' };

function misread({ resolution, label }: Context, { name, span }: Call, aggregate: Aggregate | 'count'): null {
  return wrong(
    resolution,
    'aggregate-path',
    span,
    `${label}: ${name.text}( ) takes a path to many rows and the value of each, as in “${aggregate}(loans.fee)”; or, in a query of groups, a value of the row, as in “${aggregate}(fee)”.`,
  );
}

function typeOf(context: Context, { span }: Call, aggregate: Aggregate, { type }: Expression): ValueType | null {
  const known = type.kind === 'row' || type.kind === 'interval' || type.kind === 'null' ? null : type;
  const result = known === null ? null : aggregateType(aggregate, known);
  if (result !== null) return result;
  const takes = aggregate === 'sum' || aggregate === 'avg' ? 'numbers' : 'values that have an order';
  return wrong(
    context.resolution,
    'type-mismatch',
    span,
    `${context.label}: ${aggregate}( ) takes ${takes}, and this is ${describeType(type)}.`,
  );
}

/** Is there a role to many rows on the way? Nothing is told of what is wrong with it. */
function leadsToMany(context: Context, path: Path): boolean {
  const quiet = { ...context, resolution: { ...context.resolution, findings: [], references: new Map() } };
  if (path.root.kind === 'cast' && leadsToMany(context, path.root.path)) return true;
  const whole = [path, ...path.steps.map((_, index) => ({ ...path, steps: path.steps.slice(0, index) }))];
  const ways = whole.map((one) => walk(quiet, one)).find((found) => found !== null);
  return ways?.some((hops) => hops.some(({ role }) => role.knows === 'many')) ?? false;
}

function overPath(context: Context, expr: Call, path: Path, aggregate: Aggregate): Expression | null {
  const last = path.steps.at(-1);
  if (last === undefined || last.kind === 'filter') return misread(context, expr, aggregate);
  const before = path.steps.at(-2);
  const rows = { ...path, steps: path.steps.slice(0, -1) };
  const pairs = before?.kind === 'member' ? { table: before.name, path: { ...path, steps: path.steps.slice(0, -2) } } : null;
  const ofPair = pairs !== null && leadsOver(context, pairs.path, pairs.table);
  const ways = walk(context, ofPair ? pairs.path : rows);
  if (ways === null) return null;
  const value = ofPair ? { name: last.name, pivot: pairs.table } : { name: last.name, pivot: null };
  const parts = ways.map((hops) => overHops(context, expr, aggregate, hops, value));
  const made = parts.filter((part) => part !== null);
  if (made.length < parts.length) return null;
  return together(context, expr, aggregate, made);
}

/** Does a path end with a pivot whose table has this name? */
function leadsOver(context: Context, path: Path, table: Name): boolean {
  const quiet = { ...context, resolution: { ...context.resolution, findings: [], references: new Map() } };
  const ways = walk(quiet, path);
  const [hops] = ways ?? [];
  if (hops === undefined) return false;
  const end = ends(context.resolution, hops);
  const isMember = end !== null && memberOf(quiet.resolution, end, table) !== null;
  return !isMember && pivotBehind(context.resolution, hops.at(-1)?.role)?.table.value.name === table.text;
}

/** The value at the end of a path: a field of the row, or, behind the name of the table of pairs, one of the pair. */
interface ValueName {
  readonly name: Name;
  readonly pivot: Name | null;
}

function overHops(
  context: Context,
  expr: Call,
  aggregate: Aggregate,
  hops: readonly Hop[],
  { name, pivot }: ValueName,
): Expression | null {
  const { resolution, label } = context;
  const entity = ends(resolution, hops);
  const last = hops.at(-1);
  if (entity === null || last === undefined) return null;
  if (pivot !== null && hops.slice(0, -1).some(({ role }) => role.way.kind !== 'child'))
    return wrong(
      resolution,
      'pairs-repeat',
      expr.span,
      `${label}: on this way one pair of ${pivot.text} can be reached several times. Name ${pivot.text}’s field from the entity that is paired.`,
    );
  const { group: _, shown: __, ...ofRow } = context;
  const inner: Context = { ...ofRow, entity, pivot: pivotBehind(resolution, last.role) };
  const root = { kind: 'name', name: pivot ?? name, span: (pivot ?? name).span } as const;
  const steps = pivot === null ? [] : [{ kind: 'member', name, span: name.span } as const];
  const span = { start: root.span.start, end: name.span.end };
  const value = context.reading.expression(inner, { kind: 'path', path: { root, steps, span }, span });
  if (value === null) return null;
  const type = typeOf(context, expr, aggregate, value);
  return type === null ? null : { kind: 'aggregated', aggregate, hops, value, type, span: expr.span };
}

/** Over a role to several entities each is aggregated for itself, and then all of them. */
function together(context: Context, expr: Call, aggregate: Aggregate, parts: readonly Expression[]): Expression | null {
  const [first, ...others] = parts;
  if (first === undefined || others.length === 0) return first ?? null;
  const differs = others.find(({ type }) => type.kind !== first.type.kind);
  const target = context.entity === null ? '' : ` of ${withArticle(context.entity.name)}`;
  if (aggregate === 'avg' || differs !== undefined)
    return wrong(
      context.resolution,
      'several-targets',
      expr.span,
      `${context.label}: the role${target} leads to several entities, and ${aggregate}( ) is taken over one. Say which is meant, as in “${aggregate}((things as Instrument).fee)”.`,
    );
  const common = { type: first.type, span: expr.span };
  return others.reduce<Expression>((left, right) => {
    const both: Expression =
      aggregate === 'sum'
        ? { kind: 'binary', operator: '+', left, right, ...common }
        : { kind: 'function', name: aggregate === 'min' ? 'least' : 'greatest', args: [left, right], ...common };
    // Where one of the two has none, the other is it.
    return { kind: 'function', name: 'coalesce', args: [both, left, right], ...common };
  }, first);
}
