import type { Expr, Path } from '../notation/index.js';
import type { Context } from './context.js';
import { type EntityDraft, findEntity, lineageOf, wrong } from './draft.js';
import { type Expression, readsRow } from './expression.js';

type Comparison = Extract<Expr, { kind: 'binary' }>;

/** `Player[email = 'ines@example.org']`: a row by what is true of it alone. */
export function isFoundRow(expr: Expr): boolean {
  return foundRowOf(expr) !== null;
}

function foundRowOf(
  expr: Expr,
): { readonly entity: Extract<Path['root'], { kind: 'row' }>['entity']; readonly condition: Expr } | null {
  if (expr.kind !== 'path' || expr.path.root.kind !== 'row' || expr.path.root.key !== null) return null;
  const [filter, ...others] = expr.path.steps;
  return filter?.kind === 'filter' && others.length === 0 ? { entity: expr.path.root.entity, condition: filter.condition } : null;
}

/** `borrower in (Player[…], Player(3))` as comparisons, one for each. */
export function asComparisons({ operand, items, negated, span }: Extract<Expr, { kind: 'in' }>): Expr {
  const each = items.map((right): Expr => ({ kind: 'binary', operator: '=', left: operand, right, span }));
  const any = each.reduce((left, right): Expr => ({ kind: 'binary', operator: 'or', left, right, span }));
  return negated ? { kind: 'not', operand: any, span } : any;
}

/**
 * A role that is compared with a row by a unique field of it: whether the row behind the role is the one of which the condition
 * holds. Undefined where none stands on either side.
 */
export function foundRowBeside(context: Context, expr: Comparison): Expression | null | undefined {
  const [found, other] =
    foundRowOf(expr.right) === null ? [foundRowOf(expr.left), expr.right] : [foundRowOf(expr.right), expr.left];
  if (found === null) return undefined;
  const { resolution, label } = context;
  const entity = findEntity(resolution, found.entity, label);
  const side = entity === null ? null : context.reading.expression(context, other);
  if (entity === null || side === null) return null;
  if (side.kind !== 'role' || side.hops.at(-1)?.target !== entity.name)
    return wrong(
      resolution,
      'found-row',
      other.span,
      `${label}: a row by its fields is compared with a role that leads to ${entity.name}, as in “borrower = Player[…]”.`,
    );
  const condition = context.reading.condition({ ...context, entity, pivot: null }, found.condition);
  if (condition === null) return null;
  if (!isOfOne(entity, condition))
    return wrong(
      resolution,
      'found-row',
      found.condition.span,
      `${label}: this may be true of several rows of ${entity.name}. Say what its key or a unique is equal to, as in “${entity.name}[${uniqueOf(entity)} = …]”.`,
    );
  const type = { kind: 'boolean' } as const;
  const same = neverUnknown(entity, condition);
  const expression = expr.operator === '=' ? same : opposite(same);
  return { kind: 'named', name: 'row', hops: side.hops, expression, type, span: expr.span };
}

/** A row that is there is the one that is meant or is another, also where the field by which it would be known is empty. */
function neverUnknown(entity: EntityDraft, condition: Expression): Expression {
  const { type, span } = condition;
  const optional = entity.fields.filter(({ name, required }) => !required && fixedBy(condition).includes(name));
  return optional.reduce<Expression>((left, field) => {
    const operand: Expression = { kind: 'field', hops: [], entity: entity.name, field: field.name, type: field.type, span };
    const right: Expression = { kind: 'is null', operand, negated: true, type, span };
    return { kind: 'binary', operator: 'and', left, right, type, span };
  }, condition);
}

/** What is true where a condition is false, and unknown where it is unknown. */
function opposite(condition: Expression): Expression {
  const isEquality = condition.kind === 'binary' && condition.operator === '=';
  return isEquality
    ? { ...condition, operator: '<>' }
    : { kind: 'not', operand: condition, type: condition.type, span: condition.span };
}

/** Is a condition true of one row at most: does it say what all fields of a key or of a unique are equal to? */
export function isOfOne(entity: EntityDraft, condition: Expression): boolean {
  const fixed = new Set(fixedBy(condition));
  return uniquesOf(entity).some((group) => group.every((field) => fixed.has(field)));
}

function fixedBy(condition: Expression): string[] {
  if (condition.kind !== 'binary') return [];
  const { operator, left, right } = condition;
  if (operator === 'and') return [...fixedBy(left), ...fixedBy(right)];
  if (operator !== '=') return [];
  return [
    [left, right],
    [right, left],
  ].flatMap(([side, other]) =>
    side?.kind === 'field' && side.hops.length === 0 && other !== undefined && !readsRow(other) ? [side.field] : [],
  );
}

/** The groups of fields of which no two rows have the same. */
function uniquesOf(entity: EntityDraft): (readonly string[])[] {
  const lines = lineageOf(entity).flatMap((one) => one.lines);
  return [
    entity.key.fields.map(({ name }) => name),
    ...entity.fields.flatMap(({ name, unique }) => (unique === null ? [] : [[name]])),
    ...lines.flatMap((line) => (line.kind === 'unique' ? [line.fields.map(({ text }) => text)] : [])),
  ];
}

function uniqueOf(entity: EntityDraft): string {
  const groups = uniquesOf(entity);
  return groups[1]?.join(' = … and ') ?? groups[0]?.join(' = … and ') ?? 'id';
}
